import type { EditRun, RunFrame, RunLine, RunState } from '@/contract/run';
import { NO_STACK, parseStack, type StackDocument } from '@/core/comp';
import { type Moods, NO_MOODS, parseMoods } from '@/core/moods';
import { type Outputs, parseOutputs } from '@/core/outputs';
import { canonicalJson, parseRecipe, type Recipe } from '@/core/recipe';
import type { CompKind } from '@/core/runs';
import type { Sql } from './connection';
import { newId } from './ids';
import { type InsideMany, type TakeBack, transaction } from './transaction';
import { askForFilms, wakeWaiting } from './waiting-frames';

/** What a run is rendered and delivered by: frozen when it started. */
export interface RunRow extends RunLine {
  revision: string;
  recipe: Recipe;
  outputs: Outputs;
  /** As which kind of file its stack's picture is delivered, by which stack and moods. */
  comp: CompKind | null;
  stack: StackDocument;
  moods: Moods;
  overwrites: boolean;
  removed: boolean;
}

/** What has become of the frames of a run, in one look at them, and of its files. */
const counted = (sql: Sql) => sql`
  cross join lateral (
    select jsonb_build_object('all', count(*), 'done', count(*) filter (where state = 'done'),
        'failed', count(*) filter (where state = 'failed'), 'left', count(*) filter (where state = 'stopped'),
        'busy', count(*) filter (where state in ('rendering', 'storing'))) as counts,
      case when bool_and(state in ('done', 'failed', 'stopped')) then max(finished_at) end as "endedAt",
      max(picture) + 1 as pictures
    from trial where run_id = run.id) of_frames
  cross join lateral (
    select jsonb_build_object('packed', count(*), 'placed', count(placed_at), 'bytes', coalesce(sum(bytes), 0)) as files,
      min(name || ': ' || run_file.fault) as fault
    from run_file where run_id = run.id) of_files
  cross join lateral (
    select percentile_cont(0.5) within group (order by ((seconds ->> 'load')::float8 + (seconds ->> 'write')::float8) * 1e6
        / ((spec #>> '{region,width}')::float8 * (spec #>> '{region,height}')::float8)) as "besideTracing"
    from (select seconds, spec from trial where run_id = run.id and state = 'done' limit 24) few) of_some`;

const line = (sql: Sql) => sql`
  run.id, run.shot_id as shot, run.number, run.title, run.camera, run.frames, run.folder, run.keeps_films as "keepsFilms", run.priority,
  run.state, run.created_at as "createdAt", run.wanted_at as "wantedAt", counts, "endedAt", pictures, files, of_files.fault, "besideTracing"`;

const iso = (value: unknown) => (value === null ? null : new Date(value as string).toISOString());
const asLine = <T extends RunLine>(row: T): T => ({
  ...row,
  createdAt: iso(row.createdAt)!,
  wantedAt: iso(row.wantedAt),
  endedAt: iso(row.endedAt),
});

/** Runs of a shot, newest first. */
export async function listRuns(sql: Sql, shot: string): Promise<RunLine[]> {
  const rows = await sql<RunLine[]>`
    select ${line(sql)} from run ${counted(sql)} where shot_id = ${shot} and removed_at is null order by number desc limit 200`;
  return rows.map(asLine);
}

/** A run as the list tells it; null when it is not there. */
export async function runLine(sql: Sql, id: string): Promise<RunLine | null> {
  const [row] = await sql<
    RunLine[]
  >`select ${line(sql)} from run ${counted(sql)} where run.id = ${id} and removed_at is null`;
  return row ? asLine(row) : null;
}

export async function runById(sql: Sql, id: string): Promise<RunRow | null> {
  const [row] = await sql<RunRow[]>`
    select ${line(sql)}, revision_id as revision, recipe, outputs, comp, stack, moods, overwrites, removed_at is not null as removed from run ${counted(sql)} where run.id = ${id}`;
  return row ? { ...asLine(row), ...frozen(row) } : null;
}

/** What was frozen of a run, read. */
const frozen = ({ recipe, outputs, stack, moods }: RunRow) => ({
  recipe: parseRecipe(recipe),
  outputs: parseOutputs(outputs),
  stack: parseStack(stack ?? NO_STACK),
  moods: parseMoods(moods ?? NO_MOODS),
});

/** What of a run its frames are rendered by. */
export async function runOfFrame(
  sql: Sql,
  id: string,
): Promise<
  Pick<
    RunRow,
    | 'id'
    | 'shot'
    | 'number'
    | 'frames'
    | 'camera'
    | 'recipe'
    | 'outputs'
    | 'keepsFilms'
    | 'createdAt'
    | 'comp'
    | 'stack'
    | 'moods'
  > & {
    name: string;
  }
> {
  const [row] = await sql<RunRow[] & { name: string }[]>`
    select run.id, shot_id as shot, run.number, frames, camera, recipe, outputs, comp, stack, moods, keeps_films as "keepsFilms", run.created_at as "createdAt", shot.name
    from run join shot on shot.id = shot_id where run.id = ${id}`;
  if (!row) throw new Error('the run is not there any more');
  return {
    ...(row as RunRow & { name: string }),
    ...frozen(row as RunRow),
    createdAt: iso(row.createdAt)!,
  };
}

const row = (sql: Sql) => sql`
  id, frame, picture, state, fraction, noise -> 'rms' as noise, machine, fault, step::float8 as step,
  (seconds ->> 'load')::float8 + (seconds ->> 'trace')::float8 + (seconds ->> 'write')::float8 as seconds`;

/** One frame of a run; null when it is not there. */
export async function frameOfRun(sql: Sql, id: string): Promise<RunFrame | null> {
  const [found] = await sql<RunFrame[]>`select ${row(sql)} from trial where id = ${id} and run_id is not null`;
  return found ?? null;
}

/** The same of all frames as a JSON text of rows of values, in the order of `runFrameSchema`: what has 20,000 frames is not made anew here. */
export async function framesText(sql: Sql, run: string): Promise<string> {
  const [{ text }] = await sql<{ text: string | null }[]>`
    select json_agg(json_build_array(id, frame, picture, state, round(fraction::numeric, 3), noise -> 'rms',
        (seconds ->> 'load')::float8 + (seconds ->> 'trace')::float8 + (seconds ->> 'write')::float8, machine, fault, round(step::numeric, 4))
      order by frame, picture)::text as text
    from trial where run_id = ${run}`;
  return text ?? '[]';
}

/** Frames of a run in all its pictures, by frame. */
export async function framesOfRun(sql: Sql, run: string): Promise<RunFrame[]> {
  return sql<RunFrame[]>`
    select ${row(sql)} from trial where run_id = ${run} order by frame, picture`;
}

export interface NewRunRow {
  shot: string;
  revision: string;
  title: string;
  camera: string;
  frames: string;
  recipe: Recipe;
  outputs: Outputs;
  folder: (number: number) => string;
  overwrites: boolean;
  keepsFilms: boolean;
  comp?: { as: CompKind; stack: StackDocument; moods: Moods } | null;
  /** Pictures of variants whose films the stack takes, by their numbers. */
  taken?: readonly number[];
  priority: number;
  wantedAt?: string | null;
  key: string | null;
  /** Its pictures by their recipes, and the outputs that are of each. */
  pictures: readonly { recipe: Recipe; recipeHash: string; outputs: Outputs }[];
  /** Frames in the order in which they are to be rendered. */
  order: readonly number[];
}

/** Number that the next run of a shot gets. */
export async function nextRun(sql: Sql, shot: string): Promise<number> {
  const [{ next }] = await sql<{ next: number }[]>`
    select coalesce(max(number), 0) + 1 as next from run where shot_id = ${shot}`;
  return next;
}

/** The run that was sent under a key; null where none was. */
export async function runByKey(sql: Sql, key: string): Promise<string | null> {
  const [known] = await sql<{ id: string }[]>`select id from run where key = ${key}`;
  return known?.id ?? null;
}

/** Adds a run with all its frames and their jobs; one that was sent before under the same key is given back as it is. */
export async function addRun(sql: Sql, run: NewRunRow, queue: InsideMany): Promise<string> {
  return transaction(sql, async (tx) => {
    await tx`select 1 from shot where id = ${run.shot} for update`;
    const known = run.key && (await runByKey(tx, run.key));
    if (known) return known;
    const number = await nextRun(tx, run.shot);
    const id = newId();
    await tx`insert into run (id, shot_id, number, title, revision_id, camera, frames, recipe, outputs, folder, overwrites, keeps_films, priority, wanted_at, key, comp, stack, moods, taken)
      values (${id}, ${run.shot}, ${number}, ${run.title}, ${run.revision}, ${run.camera}, ${run.frames}, ${tx.json(run.recipe as never)}, ${tx.json(run.outputs as never)},
              ${run.folder(number)}, ${run.overwrites}, ${run.keepsFilms}, ${run.priority}, ${run.wantedAt ?? null}, ${run.key}, ${run.comp?.as ?? null},
              ${run.comp ? tx.json(run.comp.stack as never) : null}, ${run.comp ? tx.json(run.comp.moods as never) : null}, ${[...(run.taken ?? [])]}::int[])`;
    for (const p of run.pictures)
      await tx`insert into recipe (hash, document) values (${p.recipeHash}, ${tx.json(JSON.parse(canonicalJson(p.recipe)))}) on conflict do nothing`;
    const now = Date.now();
    // Identifiers rise in the order of rendering, which the queue keeps among equals.
    const frames = run.order.flatMap((frame, i) =>
      run.pictures.map((_, picture) => ({ id: newId(now + i * run.pictures.length + picture), frame, picture })),
    );
    for (const [picture, p] of run.pictures.entries()) {
      const own = frames.filter((f) => f.picture === picture).map(({ id, frame }) => ({ id, frame }));
      await tx`insert into trial (id, shot_id, revision_id, recipe_hash, camera, frame, title, outputs, run_id, picture)
        select f.id, ${run.shot}, ${run.revision}, ${p.recipeHash}, ${run.camera}, f.frame, ${run.title}, ${tx.json(p.outputs as never)}, ${id}, ${picture}
        from jsonb_to_recordset(${tx.json(own)}) as f (id uuid, frame integer)`;
    }
    await queue(
      tx,
      frames.map((f) => ({ id: f.id, priority: run.priority })),
    );
    return id;
  });
}

/** Frames of a run that wait, in the order of rendering. */
const waiting = (tx: Sql, run: string, priority: number) => tx<{ id: string; priority: number }[]>`
  select id, ${priority}::int as priority from trial where run_id = ${run} and state = 'queued' order by id`;

/**
 * Changes a run: pauses it, lets it go on, ends it, has it earlier or later. Frames that wait leave the queue and come back to it,
 * those of a run that ends are left unmade; those under way hear of it by themselves. Null when the run is not there.
 */
export async function editRun(
  sql: Sql,
  id: string,
  change: EditRun,
  queue: InsideMany,
  takeBack: TakeBack,
): Promise<RunState | null> {
  return transaction(sql, async (tx) => {
    const removed = change.removed ?? null;
    const [row] = await tx<{ state: RunState; priority: number; gone: boolean }[]>`
      update run set title = coalesce(${change.title ?? null}, title), state = coalesce(${change.state ?? null}, state),
        priority = coalesce(${change.priority ?? null}, priority),
        wanted_at = ${change.wantedAt === undefined ? tx`wanted_at` : change.wantedAt},
        removed_at = case when ${removed}::boolean is null then removed_at when ${removed}::boolean then now() end
      where id = ${id} returning state, priority, removed_at is not null as gone`;
    if (!row) return null;
    if (change.state === undefined && change.priority === undefined && removed === null) return row.state;
    await takeBack(tx, id);
    if (change.state === 'stopped')
      await tx`update trial set state = 'stopped' where run_id = ${id} and state in ('queued', 'waiting')`;
    if (change.state === 'on')
      await tx`update trial set state = case when traced then 'waiting' else 'queued' end where run_id = ${id} and state = 'stopped'`;
    if (row.state === 'on' && !row.gone) await queue(tx, [...(await waiting(tx, id, row.priority))]);
    await wakeWaiting(tx, id, queue);
    return row.state;
  });
}

/**
 * Has frames of a run rendered again: those named, or those that failed. Their files in the folder stay until others take their
 * place. A run that was ended or paused goes on with them. How many there are.
 */
export async function againFrames(
  sql: Sql,
  run: string,
  which: 'failed' | readonly string[],
  priority: number | null,
  queue: InsideMany,
  takeBack: TakeBack,
): Promise<number> {
  return transaction(sql, async (tx) => {
    const [row] = await tx<{ priority: number }[]>`
      update run set state = 'on' where id = ${run} and removed_at is null returning priority`;
    if (!row) return 0;
    const chosen = await tx<{ id: string }[]>`
      update trial set state = 'queued', traced = false, for_others = false, attempts = 0, fraction = 0, left_ms = null, fault = null, holder = null, stop_requested = false
      where run_id = ${run} and state in ('done', 'failed', 'stopped', 'queued', 'waiting')
        and ${which === 'failed' ? tx`state = 'failed'` : tx`id in ${tx([...which])}`} returning id`;
    const ids = chosen.map((c) => c.id);
    if (ids.length > 0) {
      await tx`delete from checkpoint where trial_id in ${tx(ids)}`;
      await tx`delete from checkpoint_chunk where trial_id in ${tx(ids)}`;
      await askForFilms(tx, ids);
    }
    await takeBack(tx, run);
    const all = await waiting(tx, run, row.priority);
    await queue(
      tx,
      all.map((f) => (priority !== null && ids.includes(f.id) ? { ...f, priority } : f)),
    );
    return ids.length;
  });
}
