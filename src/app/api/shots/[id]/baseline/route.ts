import { z } from 'zod';
import { announce, database } from '@/server/db/connection';
import { setBaseline } from '@/server/db/shots';
import { findShot, findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

/** Makes a trial the shot's baseline, or none. */
export const PUT = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const { trial } = await body(request, z.strictObject({ trial: z.string().nullable() }));
    if (trial !== null && (await findTrial(trial)).shot !== shot.id)
      throw new Refusal(400, 'other-shot', 'the trial belongs to another shot', 'trial');
    const sql = database();
    await setBaseline(sql, shot.id, trial);
    if (trial) await announce(sql, { type: 'trial', id: trial, shot: shot.id, state: 'baseline' });
    return Response.json({ baseline: trial });
  });
