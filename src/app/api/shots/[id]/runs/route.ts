import { newRunSchema } from '@/contract/run';
import { database } from '@/server/db/connection';
import { listRuns, runLine } from '@/server/db/runs';
import { findShot } from '@/server/http/find';
import { answer, body } from '@/server/http/respond';
import { startRun } from '@/server/http/runs';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** A shot's runs, newest first. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    return Response.json({ runs: await listRuns(database(), shot.id) });
  });

/** Starts a run of the draft as it is. */
export const POST = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const id = await startRun(database(), shot, await body(request, newRunSchema));
    return Response.json({ run: await runLine(database(), id) }, { status: 201 });
  });
