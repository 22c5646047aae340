import { editRunSchema } from '@/contract/run';
import { announce, database } from '@/server/db/connection';
import { editRun } from '@/server/db/runs';
import { answer, body } from '@/server/http/respond';
import { findRun, wholeRun } from '@/server/http/runs';
import { sendingQueue } from '@/server/jobs/queue';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** A run with all its frames. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const sql = database();
    const text = await wholeRun(sql, await findRun(sql, (await params).id));
    return new Response(text, { headers: { 'content-type': 'application/json' } });
  });

/** Pauses a run, lets it go on, ends it, has it earlier or later, renames it, or takes it out of the list and back. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const sql = database();
    const run = await findRun(sql, (await params).id);
    const change = await body(request, editRunSchema);
    const { addFrames, takeBack } = await sendingQueue(sql);
    const state = await editRun(sql, run.id, change, addFrames, takeBack);
    await announce(sql, { type: 'run', id: run.id, shot: run.shot, frames: true });
    return Response.json({ state });
  });
