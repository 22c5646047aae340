import type { Sql } from './connection';

/** What a finished frame looks like in a few cells. */
export interface Looked {
  id: string;
  frame: number;
  glance: Uint8Array;
}

/** Keeps what a finished frame's small picture looks like in a few cells; which frame it is, null for none of a run. */
export async function noteGlance(
  sql: Sql,
  trial: string,
  look: (thumbnail: Uint8Array) => Uint8Array,
): Promise<{ run: string; picture: number; frame: number; frames: string } | null> {
  const [row] = await sql<{ run: string; picture: number; frame: number; frames: string; thumbnail: Buffer }[]>`
    select run_id as run, picture, frame, frames, thumbnail from trial join run on run.id = run_id
    where trial.id = ${trial} and trial.state = 'done' and thumbnail is not null`;
  if (!row) return null;
  const { thumbnail, ...own } = row;
  await sql`update trial set glance = ${Buffer.from(look(thumbnail))} where id = ${trial}`;
  return own;
}

/** Of some frames of a run in one of its pictures, those that are done. */
export async function glancesOf(sql: Sql, run: string, picture: number, frames: readonly number[]): Promise<Looked[]> {
  return sql<Looked[]>`
    select id, frame, glance from trial
    where run_id = ${run} and picture = ${picture} and frame in ${sql([...frames])} and state = 'done' and glance is not null`;
}

/** Notes how far a frame stands out from those beside it, in percent of display white. */
export async function noteStep(sql: Sql, trial: string, step: number): Promise<void> {
  await sql`update trial set step = ${step} where id = ${trial}`;
}
