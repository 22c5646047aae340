import { editTrialSchema } from '@/contract/trial';
import { announce, database } from '@/server/db/connection';
import { isId } from '@/server/db/ids';
import { editTrial, layersOf } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';
import { sendingQueue } from '@/server/jobs/queue';

type Context = { params: Promise<{ id: string }> };

/** A trial whole, with the layers of its film. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    return Response.json({ trial, layers: await layersOf(database(), trial.id) });
  });

/** Renames, annotates or stars a trial, or takes it out of the logbook and back. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const { id } = await params;
    const asked = await body(request, editTrialSchema);
    const sql = database();
    const edited = isId(id) ? await editTrial(sql, id, asked, (await sendingQueue(sql)).add) : null;
    if (!edited) throw new Refusal(404, 'no-trial', 'there is no such trial', 'id');
    await announce(sql, { type: 'trial', id, ...edited });
    return Response.json({ ok: true });
  });
