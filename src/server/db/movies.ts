import type { MadeMovie, Movie, NewMovie } from '@/contract/movie';
import type { Sql } from './connection';
import { newId } from './ids';

/** A maker that was not heard of for so long is gone, and another takes its movie up. */
const GONE_SECONDS = 30;

const line = (sql: Sql) =>
  sql`id, run_id as run, picture, shows, codec, rate, state, fraction::float8 as fraction, fault, name, facts`;

export async function addMovie(sql: Sql, run: string, { picture, shows, codec, rate }: NewMovie): Promise<string> {
  const id = newId();
  await sql`insert into movie (id, run_id, picture, shows, codec, rate) values (${id}, ${run}, ${picture}, ${shows}, ${codec}, ${rate})`;
  return id;
}

/** Movies of a run, the last one first. */
export async function moviesOf(sql: Sql, run: string): Promise<Movie[]> {
  return sql<Movie[]>`select ${line(sql)} from movie where run_id = ${run} order by created_at desc`;
}

export async function movieById(sql: Sql, id: string): Promise<Movie | null> {
  const [found] = await sql<Movie[]>`select ${line(sql)} from movie where id = ${id}`;
  return found ?? null;
}

/** Takes a movie out of the list; its file stays. One that is being made is given up. */
export async function removeMovie(sql: Sql, id: string): Promise<void> {
  await sql`delete from movie where id = ${id}`;
}

/** Takes up the movie that waits longest, or one whose maker is gone; null when there is none. */
export async function takeMovie(sql: Sql): Promise<Movie | null> {
  const [taken] = await sql<Movie[]>`
    update movie set state = 'making', fraction = 0, seen_at = now() where id = (
      select id from movie where state = 'waiting' or (state = 'making' and seen_at < now() - make_interval(secs => ${GONE_SECONDS}))
      order by created_at limit 1 for update skip locked)
    returning ${line(sql)}`;
  return taken ?? null;
}

/** Notes how far a movie is; false when nobody wants it any more. */
export async function noteMovie(sql: Sql, id: string, fraction: number): Promise<boolean> {
  const { count } = await sql`update movie set fraction = ${fraction}, seen_at = now() where id = ${id}`;
  return count > 0;
}

export async function noteMade(sql: Sql, id: string, name: string, facts: MadeMovie): Promise<void> {
  await sql`update movie set state = 'done', fraction = 1, name = ${name}, facts = ${sql.json({ ...facts })} where id = ${id}`;
}

export async function noteNotMade(sql: Sql, id: string, fault: string): Promise<void> {
  await sql`update movie set state = 'failed', fault = ${fault} where id = ${id}`;
}

/** Frames of a run in one of its pictures that are done, by frame, with their kept films. */
export async function framesDone(
  sql: Sql,
  run: string,
  picture: number,
): Promise<{ id: string; frame: number; film: string | null }[]> {
  return sql`select id, frame, film from trial where run_id = ${run} and picture = ${picture} and state = 'done' order by frame`;
}
