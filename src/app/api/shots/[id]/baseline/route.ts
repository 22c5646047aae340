import { baselineSchema } from '@/contract/shot';
import { announce, database } from '@/server/db/connection';
import { setBaseline } from '@/server/db/shots';
import { findShot, findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

/** Makes a trial the shot's baseline, or none. */
export const PUT = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const { trial } = await body(request, baselineSchema);
    if (trial !== null && (await findTrial(trial)).shot !== shot.id)
      throw new Refusal(400, 'other-shot', 'the trial belongs to another shot', 'trial');
    await setBaseline(database(), shot.id, trial);
    await announce(database(), { type: 'baseline', shot: shot.id, trial });
    return Response.json({ baseline: trial });
  });
