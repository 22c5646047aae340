import type { TrialSeconds, TrialState } from '@/contract/trial';
import type { FilmFigures, FilmSpec } from '@/core/film';
import type { Noise } from '@/core/stats';
import type { Sql } from './connection';
import { type Inside, transaction } from './transaction';

/** Attempts in a row that came to no end and kept nothing, after which a trial is given up. */
export const MOST_ATTEMPTS = 5;

/** Whether a trial is wanted now: frames of a run are while it is on. */
const isWanted = (sql: Sql) => sql`
  (run_id is null or exists (select 1 from run where run.id = run_id and run.state = 'on' and run.removed_at is null))`;

/**
 * Marks a trial as being rendered by `holder`, who alone may write to it from then on: the number of the attempt since
 * anything was kept. `spent` when it has been tried too often: it has failed. Null when it is not there to be rendered.
 */
export async function beginTrial(
  sql: Sql,
  id: string,
  holder: string,
  machine: string | null = null,
): Promise<number | 'spent' | null> {
  const fault = `its worker ended ${MOST_ATTEMPTS} times while it was rendered, and nothing could be kept`;
  const [row] = await sql<{ state: TrialState; attempts: number }[]>`
    update trial set
      holder = ${holder},
      machine = ${machine},
      began_at = now(),
      state = case when attempts >= ${MOST_ATTEMPTS} then 'failed' else 'rendering' end,
      fault = case when attempts >= ${MOST_ATTEMPTS} then ${fault} end,
      attempts = attempts + 1
    where id = ${id} and state in ('queued', 'rendering', 'storing') and removed_at is null and ${isWanted(sql)} returning state, attempts`;
  if (!row) return null;
  return row.state === 'failed' ? 'spent' : row.attempts;
}

/**
 * Notes how far a trial has come. `stop` when that has been asked for, `later` when its run is paused or ended, `lost`
 * when somebody else renders it now.
 */
export async function noteProgress(
  sql: Sql,
  id: string,
  holder: string,
  fraction: number,
  leftMs: number | null,
): Promise<'on' | 'stop' | 'later' | 'lost'> {
  const [row] = await sql<{ stop: boolean; wanted: boolean }[]>`
    update trial set fraction = ${fraction}, left_ms = ${leftMs} where id = ${id} and holder = ${holder}
    returning stop_requested or removed_at is not null as stop, ${isWanted(sql)} as wanted`;
  if (!row) return 'lost';
  if (!row.wanted) return 'later';
  return row.stop ? 'stop' : 'on';
}

/** Notes that something of a trial has been kept: attempts from here on are counted anew. */
export async function noteKept(sql: Sql, id: string, holder: string): Promise<void> {
  await sql`update trial set attempts = 1 where id = ${id} and holder = ${holder}`;
}

export async function noteStoring(sql: Sql, id: string, holder: string): Promise<void> {
  await sql`update trial set state = 'storing' where id = ${id} and holder = ${holder}`;
}

/** Gives a trial back to the queue, where an end of the worker was ordered: no attempt is counted. */
export async function giveBack(sql: Sql, id: string, holder: string): Promise<void> {
  await sql`update trial set attempts = greatest(attempts - 1, 0), holder = null,
      state = case when exists (select 1 from run where run.id = run_id and run.state = 'stopped') then 'stopped' else 'queued' end
    where id = ${id} and holder = ${holder}`;
}

export async function failTrial(sql: Sql, id: string, holder: string, fault: string): Promise<void> {
  await sql`update trial set state = 'failed', fault = ${fault} where id = ${id} and holder = ${holder}`;
}

/** Asks for a trial to stop; false when there is nothing to stop. */
export async function requestStop(sql: Sql, id: string): Promise<boolean> {
  const rows =
    await sql`update trial set stop_requested = true where id = ${id} and state in ('queued', 'rendering') returning id`;
  return rows.length > 0;
}

/** Lets other work go on beside a trial under way, whose time is not told then. False when none is under way. */
export async function leaveUntimed(sql: Sql, id: string): Promise<boolean> {
  const rows = await sql`
    update trial set untimed = true where id = ${id} and state in ('queued', 'rendering', 'storing') returning id`;
  return rows.length > 0;
}

/**
 * Queues a trial again that stopped, to go on from where it stopped, or that failed, to be tried again. False when it did
 * neither, or what is needed to go on is gone.
 */
export async function goOn(sql: Sql, id: string, queue: Inside): Promise<boolean> {
  return transaction(sql, async (tx) => {
    const rows = await tx`
      update trial set state = 'queued', stop_requested = false, attempts = 0, fault = null, holder = null
      where id = ${id} and removed_at is null
        and (state = 'failed' or state = 'stopped' and exists (select 1 from checkpoint where trial_id = ${id})) returning id`;
    if (rows.length === 0) return false;
    await queue(tx, id);
    return true;
  });
}

/** Trials that wait for their end while the queue knows nothing of them; of one trial, or of all. */
export async function strandedTrials(sql: Sql, only: string | null = null): Promise<string[]> {
  const rows = await sql<{ id: string }[]>`
    select id from trial
    where state in ('queued', 'rendering', 'storing') and removed_at is null and run_id is null and (${only}::uuid is null or id = ${only})
      and not exists (select 1 from queue.job j
                      where j.name = 'trial' and j.data ->> 'trial' = trial.id::text and j.state in ('created', 'retry', 'active'))
    order by created_at`;
  return rows.map((r) => r.id);
}

/** Frames of runs that are on and wait for their end while the queue knows nothing of them, with the priority of their run. */
export async function strandedFrames(sql: Sql): Promise<{ id: string; priority: number }[]> {
  return sql`
    select trial.id, run.priority from trial join run on run.id = run_id
    where trial.state in ('queued', 'rendering', 'storing') and run.state = 'on' and run.removed_at is null
      and trial.id::text not in (select data ->> 'trial' from queue.job
                                 where name = 'trial' and state in ('created', 'retry', 'active') and data ? 'trial')
    order by trial.id`;
}

export interface FinishedTrial {
  /** `waiting`: traced, with those beside it to come before it is packed. */
  state: 'done' | 'stopped' | 'waiting';
  seconds: TrialSeconds;
  noise: Noise | null;
  figures: FilmFigures;
  spec: FilmSpec;
  /** Hash of its film; null where only its files are kept. */
  film: string | null;
  thumbnail: Uint8Array;
  layers: { name: string; part: number; offset: number; bytes: number }[];
}

/**
 * Records a finished trial with its film's layers, and does `then` in the same transaction; false when somebody else renders it
 * now.
 */
export async function finishTrial(
  sql: Sql,
  id: string,
  holder: string,
  t: FinishedTrial,
  then?: Inside,
): Promise<boolean> {
  return transaction(sql, async (tx) => {
    const [before] = await tx<{ film: string | null }[]>`
      select film from trial where id = ${id} and holder = ${holder} for update`;
    if (!before) return false;
    await tx`delete from film_layer where trial_id = ${id}`;
    const rows = t.layers.map((l, i) => ({
      trial_id: id,
      name: l.name,
      ordinal: i,
      part: l.part,
      file_offset: l.offset,
      bytes: l.bytes,
    }));
    if (t.film) await tx`insert into film_layer ${tx(rows)}`;
    await tx`update trial set state = ${t.state}, traced = ${t.state === 'waiting'}, for_others = false, fraction = 1, left_ms = 0, seconds = case when untimed then jsonb_set(${tx.json(t.seconds as never)}::jsonb, '{calibrated}', 'null') else ${tx.json(t.seconds as never)}::jsonb end, noise = ${tx.json(t.noise as never)},
      figures = ${tx.json(t.figures as never)}, spec = ${tx.json(t.spec as never)}, film = ${t.film}, thumbnail = ${Buffer.from(t.thumbnail)}, finished_at = now()
      where id = ${id}`;
    // The film of the stop that it went on from.
    if (before.film && before.film !== t.film) {
      await tx`delete from blob where hash = ${before.film} and not exists (select 1 from trial where film = ${before.film})`;
      const [made] = await tx<
        { result: string | null }[]
      >`delete from denoised where trial_id = ${id} returning result`;
      if (made?.result)
        await tx`delete from blob where hash = ${made.result} and not exists (select 1 from denoised where result = ${made.result})`;
    }
    await then?.(tx, id);
    return true;
  });
}

/** Trials that wait or are being rendered, in every shot, the first asked for first. */
export async function listWaiting(
  sql: Sql,
): Promise<{ number: number; shot: string; title: string; state: TrialState; fraction: number }[]> {
  return sql`
    select coalesce(trial.number, trial.frame) as number, shot.name as shot, title, state, fraction from trial join shot on shot.id = shot_id
    where state in ('queued', 'rendering', 'storing') and removed_at is null order by trial.created_at`;
}
