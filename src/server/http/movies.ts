import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import type { Movie, NewMovie } from '@/contract/movie';
import type { Sql } from '../db/connection';
import { isId } from '../db/ids';
import { addMovie, framesDone, movieById } from '../db/movies';
import type { RunRow } from '../db/runs';
import { Refusal } from './respond';
import { findRun } from './runs';

/** Has a movie made. Throws a refusal where there would be nothing in it. */
export async function askMovie(sql: Sql, run: RunRow, asked: NewMovie): Promise<string> {
  if (asked.shows === 'comp' && !run.comp)
    throw new Refusal(400, 'shows', 'the run delivers nothing of the stack', 'shows');
  if (asked.picture >= run.pictures)
    throw new Refusal(400, 'picture', `the run has ${run.pictures} pictures`, 'picture', { most: run.pictures - 1 });
  if ((await framesDone(sql, run.id, asked.picture)).length === 0)
    throw new Refusal(409, 'no-frames', 'no frame is done yet', 'picture');
  return addMovie(sql, run.id, asked);
}

/** The movie of a route and its run, or a 404. */
export async function findMovie(sql: Sql, id: string): Promise<{ movie: Movie; run: RunRow }> {
  const movie = isId(id) ? await movieById(sql, id) : null;
  if (!movie) throw new Refusal(404, 'no-movie', `there is no movie ${id.slice(0, 40)}`, 'id');
  return { movie, run: await findRun(sql, movie.run) };
}

/** Bytes from and to, both within, of a header that asks for one piece; null for the whole. Throws a refusal beyond the end. */
export function rangeOf(header: string | null, size: number): { from: number; to: number } | null {
  const asked = /^bytes=(\d*)-(\d*)$/.exec(header ?? '');
  if (!asked || (asked[1] === '' && asked[2] === '')) return null;
  const from = asked[1] === '' ? Math.max(0, size - Number(asked[2])) : Number(asked[1]);
  const to = asked[1] === '' || asked[2] === '' ? size - 1 : Math.min(size - 1, Number(asked[2]));
  if (from > to) throw new Refusal(416, 'range', `the file has ${size} bytes`, 'range');
  return { from, to };
}

/** The file of a movie as a page's player takes it: whole, or by pieces (RFC 9110, section 14). */
export async function movieResponse(
  { movie, run }: { movie: Movie; run: RunRow },
  request: Request,
): Promise<Response> {
  const path = movie.name && join(run.folder, movie.name);
  const there = path ? await stat(path).catch(() => null) : null;
  if (!path || !there?.isFile())
    throw new Refusal(404, 'no-file', `${movie.name ?? 'the movie'} is not in the folder`, 'id');
  const range = rangeOf(request.headers.get('range'), there.size);
  const { from, to } = range ?? { from: 0, to: there.size - 1 };
  return new Response(Readable.toWeb(createReadStream(path, { start: from, end: to })) as ReadableStream, {
    status: range ? 206 : 200,
    headers: {
      'content-type': 'video/webm',
      'content-length': String(to - from + 1),
      'accept-ranges': 'bytes',
      ...(range ? { 'content-range': `bytes ${from}-${to}/${there.size}` } : {}),
      'content-disposition': `inline; filename="${movie.name}"`,
      'cache-control': 'no-store',
    },
  });
}
