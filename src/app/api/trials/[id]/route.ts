import { z } from 'zod';
import { announce, database } from '@/server/db/connection';
import { isId } from '@/server/db/ids';
import { editTrial, layersOf, requestStop } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

type Context = { params: Promise<{ id: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    return Response.json({ trial, layers: await layersOf(database(), trial.id) });
  });

const change = z.strictObject({
  title: z.string().trim().min(1).max(120).optional(),
  note: z.string().max(4000).optional(),
  starred: z.boolean().optional(),
  removed: z.boolean().optional(),
});

/** Renames, annotates or stars a trial, or takes it out of the logbook and back. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const { id } = await params;
    const asked = await body(request, change);
    const sql = database();
    if (asked.removed) await requestStop(sql, (await findTrial(id)).id);
    if (!isId(id) || !(await editTrial(sql, id, asked)))
      throw new Refusal(404, 'no-trial', 'there is no such trial', 'id');
    const [row] = await sql<{ shot: string }[]>`select shot_id as shot from trial where id = ${id}`;
    await announce(sql, { type: 'trial', id, shot: row.shot, state: 'edited' });
    return Response.json({ ok: true });
  });
