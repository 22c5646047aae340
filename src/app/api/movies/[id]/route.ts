import { announce, database } from '@/server/db/connection';
import { removeMovie } from '@/server/db/movies';
import { findMovie, movieResponse } from '@/server/http/movies';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** The file of a movie, or the piece of it that is asked for. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => movieResponse(await findMovie(database(), (await params).id), request));

/** Takes a movie out of the list, or gives it up while it is being made; a file that is there stays. */
export const DELETE = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const sql = database();
    const { movie, run } = await findMovie(sql, (await params).id);
    await removeMovie(sql, movie.id);
    await announce(sql, { type: 'run', id: run.id, shot: run.shot, frames: false });
    return Response.json({});
  });
