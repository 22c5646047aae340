import { againSchema } from '@/contract/run';
import { database } from '@/server/db/connection';
import { answer, body } from '@/server/http/respond';
import { againOf, findRun } from '@/server/http/runs';

/** Has frames of a run rendered again: named ones, those that failed, or those whose files are gone. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    const run = await findRun(sql, (await params).id);
    return Response.json({ frames: await againOf(sql, run, await body(request, againSchema)) });
  });
