import type { Denoised, DenoisedFigures, DenoisedState } from '@/contract/denoised';
import type { Patches, Strengths } from '@/core/denoise';
import type { Noise } from '@/core/stats';
import type { Sql } from './connection';
import { type Inside, transaction } from './transaction';
import { MOST_ATTEMPTS } from './trial-life';

/** Part of a picture in its pixels. */
export type Part = { x: number; y: number; width: number; height: number };

/** What the logbook tells of a trial's denoised film: null where there is none of the film it has now. */
export const denoisedLine = (sql: Sql) => sql`(
  select jsonb_build_object('state', d.state, 'fraction', d.fraction, 'leftMs', d.left_ms, 'fault', d.fault, 'strengths', d.strengths, 'residual', d.residual, 'seconds', d.figures -> 'seconds')
  from denoised d where d.trial_id = trial.id and d.film = trial.film) as denoised`;

interface AskedOf {
  first: Part | null;
  strengths: Strengths;
  /** Whether it is to be joined with the frames about it. */
  joins?: boolean;
}

/**
 * Notes, within a transaction, that a trial's film is to be denoised. False when there is no film, or it is under way or done;
 * one that is done is made anew to be joined. `first` is filtered before the rest.
 */
export async function askDenoisedInside(
  tx: Sql,
  trial: string,
  { first, strengths, joins = false }: AskedOf,
): Promise<boolean> {
  const rows = await tx`
    insert into denoised (trial_id, film, first, strengths, joins)
    select id, film, ${first ? tx.json(first as never) : null}::jsonb, ${tx.json(strengths as never)}::jsonb, ${joins}
    from trial where id = ${trial} and film is not null
    on conflict (trial_id) do update set
      film = excluded.film, first = excluded.first, state = 'queued', stop_requested = false, fraction = 0, left_ms = null,
      attempts = 0, holder = null, fault = null, joins = excluded.joins,
      anew = denoised.anew or (denoised.state = 'done' and excluded.joins)
    where denoised.state in ('failed', 'stopped') or (denoised.state = 'done' and excluded.joins)
    returning trial_id`;
  return rows.length > 0;
}

/** The same with its job, both or neither. */
export async function askDenoised(sql: Sql, trial: string, asked: AskedOf, queue: Inside): Promise<boolean> {
  return transaction(sql, async (tx) => {
    const made = await askDenoisedInside(tx, trial, asked);
    if (made) await queue(tx, trial);
    return made;
  });
}

/** What a worker is to denoise. */
export interface DenoisedWork {
  shot: string;
  film: string;
  first: Part | null;
  strengths: Strengths;
  joins: boolean;
  /** Whether its layers are there already, and it is only to be held against patches. */
  filtered: boolean;
}

/** Whether what was asked for has been filtered. */
const filtered = (sql: Sql) => sql`(d.result is not null and not d.anew)`;

/** Marks a denoised film as being made by `holder`. `spent` when it has been tried too often; null when there is nothing to do. */
export async function beginDenoised(sql: Sql, trial: string, holder: string): Promise<DenoisedWork | 'spent' | null> {
  const fault = `its worker ended ${MOST_ATTEMPTS} times while it was denoised`;
  const [row] = await sql<(DenoisedWork & { state: DenoisedState })[]>`
    update denoised d set
      holder = ${holder},
      state = case when d.attempts >= ${MOST_ATTEMPTS} then 'failed' when ${filtered(sql)} then 'judging' else 'filtering' end,
      fault = case when d.attempts >= ${MOST_ATTEMPTS} then ${fault} end,
      attempts = d.attempts + 1
    from trial where trial.id = d.trial_id and d.trial_id = ${trial} and trial.film = d.film and trial.removed_at is null
      and d.state in ('queued', 'filtering', 'storing', 'judging')
    returning trial.shot_id as shot, d.film, d.first, d.strengths, d.joins, ${filtered(sql)} as filtered, d.state`;
  if (!row) return null;
  return row.state === 'failed' ? 'spent' : row;
}

/**
 * Notes how far it has come, as long as it has not come further. `stop` when that has been asked for, `lost` when somebody else
 * makes it now or it has ended.
 */
export async function noteDenoised(
  sql: Sql,
  trial: string,
  holder: string,
  { state, fraction, leftMs }: { state: DenoisedState; fraction: number; leftMs: number | null },
): Promise<'on' | 'stop' | 'lost'> {
  const [row] = await sql<{ stop: boolean }[]>`
    update denoised d set state = ${state}, fraction = ${fraction}, left_ms = ${leftMs}
    from trial where trial.id = d.trial_id and d.trial_id = ${trial} and d.holder = ${holder}
      and d.state in ('filtering', 'storing', 'judging') and (d.state <> 'judging' or ${state}::text = 'judging')
    returning d.stop_requested or trial.removed_at is not null as stop`;
  if (!row) return 'lost';
  return row.stop ? 'stop' : 'on';
}

/** Keeps what filtering made; false when somebody else makes it now. */
export async function keepDenoised(
  sql: Sql,
  trial: string,
  holder: string,
  made: { figures: DenoisedFigures; residual: Noise; result: string; layers: { name: string; part: number }[] },
): Promise<boolean> {
  return transaction(sql, async (tx) => {
    const rows = await tx`
      update denoised set state = 'judging', anew = false, fraction = 1, left_ms = 0, figures = ${tx.json(made.figures as never)},
        residual = ${tx.json(made.residual as never)}, result = ${made.result}
      where trial_id = ${trial} and holder = ${holder} returning trial_id`;
    if (rows.length === 0) return false;
    await tx`delete from denoised_layer where trial_id = ${trial}`;
    await tx`insert into denoised_layer ${tx(made.layers.map((l, ordinal) => ({ trial_id: trial, ordinal, ...l })))}`;
    return true;
  });
}

/** Ends it: done with its patches, or without them where that was stopped, or failed in words. */
export async function endDenoised(
  sql: Sql,
  trial: string,
  holder: string,
  made: { patches: Patches; pixels: Float32Array<ArrayBuffer> } | null,
  fault: string | null,
): Promise<void> {
  const pixels = made && Buffer.from(made.pixels.buffer);
  await sql`update denoised set state = 'done', fault = ${fault}, patches = ${made ? sql.json(made.patches as never) : null}, pixels = ${pixels}
    where trial_id = ${trial} and holder = ${holder}`;
}

/** Ends it without a new result: stopped, or failed in words. What it had before stays. */
export async function giveUpDenoised(sql: Sql, trial: string, holder: string, fault: string | null): Promise<void> {
  const state = fault === null ? 'stopped' : 'failed';
  await sql`update denoised set state = case when result is null then ${state} else 'done' end, anew = false, fault = ${fault}
    where trial_id = ${trial} and holder = ${holder}`;
}

/** Gives it back to the queue; no attempt is counted. */
export async function giveBackDenoised(sql: Sql, trial: string, holder: string): Promise<void> {
  await sql`update denoised set state = 'queued', attempts = greatest(attempts - 1, 0), holder = null
    where trial_id = ${trial} and holder = ${holder}`;
}

/** Asks for it to stop; false when there is nothing to stop. */
export async function stopDenoised(sql: Sql, trial: string): Promise<boolean> {
  const rows = await sql`update denoised set stop_requested = true
    where trial_id = ${trial} and state in ('queued', 'filtering', 'judging') returning trial_id`;
  return rows.length > 0;
}

/** Denoised films that wait for their end while the queue knows nothing of them. */
export async function strandedDenoised(sql: Sql): Promise<string[]> {
  const rows = await sql<{ id: string }[]>`
    select d.trial_id as id from denoised d join trial on trial.id = d.trial_id
    where d.state in ('queued', 'filtering', 'storing', 'judging') and trial.removed_at is null and trial.film = d.film
      and not exists (select 1 from queue.job j
                      where j.name = 'trial' and j.data ->> 'denoise' = d.trial_id::text and j.state in ('created', 'retry', 'active'))
    order by d.created_at`;
  return rows.map((r) => r.id);
}

/** A denoised film as it is stored. */
type MadeRow = Omit<Denoised, 'about' | 'mark'> & { result: string | null };

/** A denoised film whole, with the name its content is kept under; null where there is none of the film the trial has now. */
export async function denoisedOf(sql: Sql, trial: string): Promise<MadeRow | null> {
  const [row] = await sql<MadeRow[]>`
    select d.state, d.fraction, d.left_ms as "leftMs", d.fault, d.strengths, d.residual, d.figures, (d.figures ->> 'seconds')::float as seconds, d.patches, d.result,
      coalesce((select jsonb_agg(name order by ordinal) from denoised_layer l where l.trial_id = d.trial_id), '[]') as layers
    from denoised d join trial on trial.id = d.trial_id where d.trial_id = ${trial} and d.film = trial.film`;
  return row ?? null;
}

/** Where the layers of a denoised film lie in it. */
export async function denoisedLayers(sql: Sql, trial: string): Promise<{ name: string; part: number }[]> {
  return sql`select name, part from denoised_layer where trial_id = ${trial} order by ordinal`;
}

/** The pixels that it is held against; null where there are none. */
export async function patchPixels(sql: Sql, trial: string): Promise<Uint8Array | null> {
  const [row] = await sql<{ pixels: Buffer | null }[]>`select pixels from denoised where trial_id = ${trial}`;
  return row?.pixels ?? null;
}

/** Takes other strengths, with the noise that is left at them. False when there is nothing filtered. */
export async function setStrengths(
  sql: Sql,
  trial: string,
  strengths: Strengths,
  residual: Noise,
): Promise<{ shot: string } | null> {
  const [row] = await sql<{ shot: string }[]>`
    update denoised d set strengths = ${sql.json(strengths as never)}, residual = ${sql.json(residual as never)}
    from trial where trial.id = d.trial_id and d.trial_id = ${trial} and d.result is not null returning trial.shot_id as shot`;
  return row ?? null;
}

/** A trial of the frame before or after another, which that can be joined with. */
export interface TrialAbout {
  id: string;
  number: number;
  frame: number;
  film: string;
  isAfter: boolean;
}

/**
 * The newest trials of the frames before and after a trial's own that show the same, scene, camera, pixels and depth, with a
 * film that has all `needed` layers. The frame after comes first.
 */
export async function trialsAbout(sql: Sql, trial: string, needed: readonly string[]): Promise<TrialAbout[]> {
  return sql<TrialAbout[]>`
    select distinct on (t.frame) t.id, coalesce(t.number, 0) as number, t.frame, t.film, t.frame > own.frame as "isAfter"
    from trial own
    join recipe r on r.hash = own.recipe_hash
    join trial t on t.shot_id = own.shot_id and t.revision_id = own.revision_id and t.camera = own.camera
      and t.frame in (own.frame - 1, own.frame + 1) and t.film is not null and t.removed_at is null
      and t.run_id is not distinct from own.run_id and t.picture is not distinct from own.picture
    join recipe s on s.hash = t.recipe_hash
    where own.id = ${trial} and s.document -> 'size' = r.document -> 'size' and s.document -> 'region' = r.document -> 'region'
      and s.document -> 'rayDepth' = r.document -> 'rayDepth'
      and (select count(*) from film_layer l where l.trial_id = t.id and l.name = any (${[...needed]})) = ${needed.length}
    order by t.frame desc, t.number desc nulls last`;
}
