import type { Sql } from './connection';
import type { InsideMany } from './transaction';

/**
 * Frames of a run that are made of others too go through the queue twice: traced, a frame keeps its film and waits (`waiting`);
 * when all that it is made of are traced, or will never be, it comes into the queue again, to be packed. So nobody waits in a worker.
 * Frames that are denoised joined are made of those beside them; those of which the stack's picture is delivered, of the
 * same frame in the variants that the stack takes.
 */

/** Whether a trial's frames are joined with those beside them. */
const joins = (sql: Sql) => sql`
  exists (select 1 from recipe r where r.hash = n.recipe_hash
          and (r.document #>> '{denoise,on}')::boolean and (r.document #>> '{denoise,neighbours}')::boolean)`;

/** Whether the stack of its run takes the picture of trial `n`. */
const isTaken = (sql: Sql) => sql`exists (select 1 from run where run.id = n.run_id and n.picture = any (run.taken))`;

/** Whether trial `t` is made of trial `n` too. */
const madeOf = (sql: Sql) => sql`
  n.run_id = t.run_id and n.frame between t.frame - 1 and t.frame + 1
  and (n.picture = t.picture and n.frame <> t.frame and ${joins(sql)}
       or t.picture = 0 and ${isTaken(sql)} and (n.frame = t.frame or ${joins(sql)}))`;

/** Has frames that wait packed when all that they are made of are there, before frames that are yet to be traced. */
export async function wakeWaiting(tx: Sql, run: string, queue: InsideMany): Promise<void> {
  // One after another: of two frames that end at once the later sees both.
  const [row] = await tx<{ priority: number }[]>`
    select priority from run where id = ${run} and state = 'on' and removed_at is null for update`;
  if (!row) return;
  const woken = await tx<{ id: string }[]>`
    update trial t set state = 'queued', attempts = 0, holder = null
    where t.run_id = ${run} and t.state = 'waiting'
      and not exists (select 1 from trial n where ${madeOf(tx)} and n.state in ('queued', 'rendering', 'storing') and not n.traced)
    returning id`;
  if (woken.length > 0)
    await queue(
      tx,
      woken.map(({ id }) => ({ id, priority: row.priority + 1 })).sort((a, b) => (a.id < b.id ? -1 : 1)),
    );
}

/** Lets go of films that no other frame waits for any more, where the run keeps none. */
export async function releaseFilms(tx: Sql, run: string): Promise<void> {
  const gone = await tx<{ id: string; film: string }[]>`
    select n.id, n.film from trial n join run on run.id = n.run_id
    where n.run_id = ${run} and n.state = 'done' and n.film is not null and not run.keeps_films
      and not exists (select 1 from trial t where ${madeOf(tx)} and t.state not in ('done', 'failed'))
    for update of n`;
  if (gone.length === 0) return;
  const ids = gone.map((t) => t.id);
  await tx`delete from film_layer where trial_id in ${tx(ids)}`;
  await tx`update trial set film = null where id in ${tx(ids)}`;
  await tx`delete from blob where hash in ${tx(gone.map((t) => t.film))} and not exists (select 1 from trial where film = blob.hash)`;
}

/** How a frame of a run stands. */
export interface Standing {
  /** Whether it is denoised joined with the frames beside it. */
  joins: boolean;
  /** Whether it waits for others when it is traced. */
  waits: boolean;
  /** Whether others wait for its film. */
  lends: boolean;
  /** Whether it is traced already, and whether it is traced for others alone. */
  traced: boolean;
  forOthers: boolean;
}

export async function standingOf(sql: Sql, id: string): Promise<Standing> {
  const [row] = await sql<Standing[]>`
    select own.joins, own.joins or n.picture = 0 and run.taken <> '{}' as waits, own.joins or n.picture = any (run.taken) as lends,
      n.traced, n.for_others as "forOthers"
    from trial n join run on run.id = n.run_id cross join lateral (select ${joins(sql)} as joins) own where n.id = ${id}`;
  return row ?? { joins: false, waits: false, lends: false, traced: false, forOthers: false };
}

/** Asks for the films of frames that others which are rendered again are made of, where they were let go. */
export async function askForFilms(tx: Sql, ids: readonly string[]): Promise<void> {
  await tx`
    update trial n set state = 'queued', for_others = true, traced = false, attempts = 0, fraction = 0, left_ms = null, holder = null
    where n.state = 'done' and n.film is null and exists (select 1 from trial t where t.id in ${tx([...ids])} and ${madeOf(tx)})`;
}

/** The trial of the same frame in another picture of a run; null where there is none. */
export async function sameFrame(sql: Sql, run: string, frame: number, picture: number): Promise<string | null> {
  const [row] = await sql<{ id: string }[]>`
    select id from trial where run_id = ${run} and frame = ${frame} and picture = ${picture}`;
  return row?.id ?? null;
}

/** Notes that a frame that waited is packed; false when somebody else does it now. */
export async function finishWaiting(
  tx: Sql,
  id: string,
  holder: string,
  { seconds, thumbnail }: { seconds: number; thumbnail: Uint8Array | null },
): Promise<boolean> {
  const rows = await tx`
    update trial set state = 'done', traced = false, fraction = 1, left_ms = 0, finished_at = now(),
      thumbnail = coalesce(${thumbnail && Buffer.from(thumbnail)}, thumbnail),
      seconds = jsonb_set(seconds, '{write}', to_jsonb((seconds ->> 'write')::float8 + ${seconds}::float8))
    where id = ${id} and holder = ${holder} returning id`;
  return rows.length > 0;
}
