import type { Sql } from './connection';
import type { InsideMany } from './transaction';

/**
 * Frames of a run that are denoised joined with those beside them go through the queue twice: traced, a frame keeps its film and
 * waits (`waiting`); when all beside it are traced, or will never be, it comes into the queue again, to be denoised and packed. So nobody waits in a worker.
 */

/** Whether frames of the trial's recipe are joined. */
const joins = (sql: Sql) => sql`
  exists (select 1 from recipe r where r.hash = trial.recipe_hash
          and (r.document #>> '{denoise,on}')::boolean and (r.document #>> '{denoise,neighbours}')::boolean)`;

/** The frames beside trial `t` in its picture of its run. */
const beside = (sql: Sql) => sql`
  n.run_id = t.run_id and n.picture = t.picture and n.frame in (t.frame - 1, t.frame + 1)`;

/** Has frames that wait packed whose neighbours are all there, before frames that are yet to be traced. */
export async function wakeJoined(tx: Sql, run: string, queue: InsideMany): Promise<void> {
  // One after another: of two neighbours that end at once the later sees both.
  const [row] = await tx<{ priority: number }[]>`
    select priority from run where id = ${run} and state = 'on' and removed_at is null for update`;
  if (!row) return;
  const woken = await tx<{ id: string }[]>`
    update trial t set state = 'queued', attempts = 0, holder = null
    where t.run_id = ${run} and t.state = 'waiting'
      and not exists (select 1 from trial n where ${beside(tx)} and n.state in ('queued', 'rendering', 'storing') and not n.traced)
    returning id`;
  if (woken.length > 0)
    await queue(
      tx,
      woken.map(({ id }) => ({ id, priority: row.priority + 1 })),
    );
}

/** Lets go of films that no frame beside them waits for any more, where the run keeps none. */
export async function releaseJoined(tx: Sql, run: string): Promise<void> {
  const gone = await tx<{ id: string; film: string }[]>`
    select t.id, t.film from trial t join run on run.id = t.run_id
    where t.run_id = ${run} and t.state = 'done' and t.film is not null and not run.keeps_films
      and not exists (select 1 from trial n where ${beside(tx)} and n.state not in ('done', 'failed'))
    for update of t`;
  if (gone.length === 0) return;
  const ids = gone.map((t) => t.id);
  await tx`delete from film_layer where trial_id in ${tx(ids)}`;
  await tx`update trial set film = null where id in ${tx(ids)}`;
  await tx`delete from blob where hash in ${tx(gone.map((t) => t.film))} and not exists (select 1 from trial where film = blob.hash)`;
}

/** How a frame of a run stands: whether it is joined, traced already, or traced for those beside it alone. */
export async function standingOf(
  sql: Sql,
  id: string,
): Promise<{ joins: boolean; traced: boolean; forOthers: boolean }> {
  const [row] = await sql<{ joins: boolean; traced: boolean; forOthers: boolean }[]>`
    select ${joins(sql)} as joins, traced, for_others as "forOthers" from trial where id = ${id}`;
  return row ?? { joins: false, traced: false, forOthers: false };
}

/** Asks for the films of frames beside those that are rendered again, where they are joined and were let go. */
export async function askBeside(tx: Sql, ids: readonly string[]): Promise<void> {
  await tx`
    update trial set state = 'queued', for_others = true, traced = false, attempts = 0, fraction = 0, left_ms = null, holder = null
    where state = 'done' and film is null and ${joins(tx)}
      and exists (select 1 from trial t where t.id in ${tx([...ids])} and t.run_id = trial.run_id and t.picture = trial.picture
                  and trial.frame in (t.frame - 1, t.frame + 1))`;
}

/** Notes that a joined frame is packed; false when somebody else does it now. */
export async function finishJoined(
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
