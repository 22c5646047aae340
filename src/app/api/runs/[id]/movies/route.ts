import { newMovieSchema } from '@/contract/movie';
import { announce, database } from '@/server/db/connection';
import { moviesOf } from '@/server/db/movies';
import { askMovie } from '@/server/http/movies';
import { answer, body } from '@/server/http/respond';
import { findRun } from '@/server/http/runs';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** Movies of a run, the last one first. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const sql = database();
    const run = await findRun(sql, (await params).id);
    return Response.json({ movies: await moviesOf(sql, run.id) });
  });

/** Has a movie made of the frames that are done. */
export const POST = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const sql = database();
    const run = await findRun(sql, (await params).id);
    const id = await askMovie(sql, run, await body(request, newMovieSchema));
    await announce(sql, { type: 'run', id: run.id, shot: run.shot, frames: false });
    return Response.json({ id }, { status: 201 });
  });
