import { moodNameSchema, newMoodSchema } from '@/contract/mood';
import { database } from '@/server/db/connection';
import { listMoods, putMood, removeMood } from '@/server/db/moods';
import { findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(request, async () =>
    Response.json({ moods: await listMoods(database(), (await findTrial((await params).id)).id) }),
  );

/** Keeps a mood with the trial. */
export const PUT = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const { name, balance } = await body(request, newMoodSchema);
    return Response.json({ mood: await putMood(database(), trial.id, name, balance) });
  });

export const DELETE = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const { name } = await body(request, moodNameSchema);
    const removed = await removeMood(database(), trial.id, name);
    if (!removed) throw new Refusal(404, 'no-mood', 'there is no such mood', 'name');
    return Response.json({ ok: true });
  });
