import type { Prediction } from '@/contract/terms';
import type { LadderStep, LogbookPage, Trial, TrialLine, TrialSeconds, TrialState } from '@/contract/trial';
import type { FilmFigures, FilmSpec } from '@/core/film';
import { canonicalJson, frameOf, parseRecipe, type Recipe } from '@/core/recipe';
import type { Noise } from '@/core/stats';
import type { Sql } from './connection';
import { newId } from './ids';

/** A trial as it is stored: what the contract tells of one, and what only the server needs. */
export interface TrialRow extends Trial {
  recipeHash: string;
  film: string | null;
  finishedAt: string | null;
}

type Stored = Omit<TrialRow, 'recipeName' | 'pixels'>;
type StoredLine = Omit<TrialLine, 'recipeName' | 'pixels'> & { recipe: Pick<Recipe, 'name' | 'size' | 'region'> };

const line = (sql: Sql) => sql`
  trial.id, shot_id as shot, number, revision_id as revision, camera, frame, parent, title, note, starred, state, fraction,
  left_ms as "leftMs", fault, seconds, noise, predicted, ladder, created_at as "createdAt"`;

const asLine = ({ recipe, ...row }: StoredLine): TrialLine => ({
  ...row,
  createdAt: new Date(row.createdAt).toISOString(),
  recipeName: recipe.name,
  pixels: frameOf(recipe),
});

/** A stored trial; settings that did not exist when it was made have their defaults. */
function whole(row: Stored): TrialRow {
  const recipe = parseRecipe(row.recipe);
  return { ...row, recipe, recipeName: recipe.name, pixels: frameOf(recipe) };
}

/** What a line tells of its recipe: no more, since whole recipes and figures would weigh the logbook down. */
const briefRecipe = (sql: Sql) => sql`
  jsonb_build_object('name', document -> 'name', 'size', document -> 'size', 'region', document -> 'region') as recipe`;

/** A page of a shot's logbook, newest first: trials numbered below `before`, and how many there are in all. */
export async function listTrials(sql: Sql, shot: string, before: number | null, most: number): Promise<LogbookPage> {
  const rows = await sql<StoredLine[]>`
    select ${line(sql)}, ${briefRecipe(sql)} from trial join recipe on recipe.hash = recipe_hash
    where shot_id = ${shot} and removed_at is null and (${before}::int is null or number < ${before}) order by number desc limit ${most}`;
  const [{ total }] = await sql<{ total: number }[]>`
    select count(*)::int as total from trial where shot_id = ${shot} and removed_at is null`;
  return { trials: rows.map(asLine), total };
}

/** A trial as the logbook lists it; null when it is not in it. */
export async function trialLine(sql: Sql, id: string): Promise<TrialLine | null> {
  const [row] = await sql<StoredLine[]>`
    select ${line(sql)}, ${briefRecipe(sql)} from trial join recipe on recipe.hash = recipe_hash
    where trial.id = ${id} and removed_at is null`;
  return row ? asLine(row) : null;
}

export async function trialById(sql: Sql, id: string): Promise<TrialRow | null> {
  const [row] = await sql<Stored[]>`
    select ${line(sql)}, document as recipe, recipe_hash as "recipeHash", figures, spec, film, finished_at as "finishedAt"
    from trial join recipe on recipe.hash = recipe_hash where trial.id = ${id} and removed_at is null`;
  return row ? whole(row) : null;
}

export interface NewTrialRow {
  shot: string;
  revision: string;
  recipe: Recipe;
  recipeHash: string;
  camera: string;
  frame?: number | null;
  parent: string | null;
  title: string;
  predicted?: Prediction | null;
  ladder?: LadderStep | null;
}

/** Adds a trial to the logbook, numbered within its shot. */
export async function addTrial(sql: Sql, trial: NewTrialRow): Promise<{ id: string; number: number }> {
  return sql.begin(async (tx) => {
    await tx`insert into recipe (hash, document) values (${trial.recipeHash}, ${tx.json(JSON.parse(canonicalJson(trial.recipe)))}) on conflict do nothing`;
    await tx`select 1 from shot where id = ${trial.shot} for update`;
    const [{ next }] = await tx<
      { next: number }[]
    >`select coalesce(max(number), 0) + 1 as next from trial where shot_id = ${trial.shot}`;
    const id = newId();
    await tx`insert into trial (id, shot_id, number, revision_id, recipe_hash, camera, frame, parent, title, predicted, ladder)
      values (${id}, ${trial.shot}, ${next}, ${trial.revision}, ${trial.recipeHash}, ${trial.camera}, ${trial.frame ?? null}, ${trial.parent}, ${trial.title}, ${trial.predicted ? tx.json(trial.predicted as never) : null}, ${trial.ladder ? tx.json(trial.ladder as never) : null})`;
    return { id, number: next };
  });
}

/** Marks a trial as rendering, once more attempted; false when it is not there to be rendered. */
export async function beginTrial(sql: Sql, id: string): Promise<boolean> {
  const rows = await sql`update trial set state = 'rendering', attempts = attempts + 1, fault = null
    where id = ${id} and state in ('queued', 'rendering', 'storing') and removed_at is null returning id`;
  return rows.length > 0;
}

/** Notes progress and says whether a stop has been asked for. */
export async function noteProgress(sql: Sql, id: string, fraction: number, leftMs: number | null): Promise<boolean> {
  const [row] = await sql<
    { stop: boolean }[]
  >`update trial set fraction = ${fraction}, left_ms = ${leftMs} where id = ${id}
    returning stop_requested or removed_at is not null as stop`;
  return row?.stop ?? true;
}

export async function requestStop(sql: Sql, id: string): Promise<boolean> {
  const rows =
    await sql`update trial set stop_requested = true where id = ${id} and state in ('queued', 'rendering') returning id`;
  return rows.length > 0;
}

/** Queues a stopped trial again, to go on from where it stopped; false when it did not stop or what is needed is gone. */
export async function goOn(sql: Sql, id: string): Promise<boolean> {
  const rows = await sql`update trial set state = 'queued', stop_requested = false
    where id = ${id} and state = 'stopped' and removed_at is null
      and exists (select 1 from checkpoint where trial_id = ${id}) returning id`;
  return rows.length > 0;
}

export async function setState(sql: Sql, id: string, state: TrialState, fault: string | null = null): Promise<void> {
  await sql`update trial set state = ${state}, fault = ${fault} where id = ${id}`;
}

export interface FinishedTrial {
  state: 'done' | 'stopped';
  seconds: TrialSeconds;
  noise: Noise | null;
  figures: FilmFigures;
  spec: FilmSpec;
  film: string;
  thumbnail: Uint8Array;
  layers: { name: string; part: number; offset: number; bytes: number }[];
}

/** Records a finished trial with its film's layers, in one transaction. */
export async function finishTrial(sql: Sql, id: string, t: FinishedTrial): Promise<void> {
  await sql.begin(async (tx) => {
    const [before] = await tx<{ film: string | null }[]>`select film from trial where id = ${id}`;
    await tx`delete from film_layer where trial_id = ${id}`;
    const rows = t.layers.map((l, i) => ({
      trial_id: id,
      name: l.name,
      ordinal: i,
      part: l.part,
      file_offset: l.offset,
      bytes: l.bytes,
    }));
    await tx`insert into film_layer ${tx(rows)}`;
    await tx`update trial set state = ${t.state}, fraction = 1, left_ms = 0, seconds = ${tx.json(t.seconds as never)}, noise = ${tx.json(t.noise as never)},
      figures = ${tx.json(t.figures as never)}, spec = ${tx.json(t.spec as never)}, film = ${t.film}, thumbnail = ${Buffer.from(t.thumbnail)}, finished_at = now()
      where id = ${id}`;
    // The film of the stop that it went on from.
    if (before?.film && before.film !== t.film)
      await tx`delete from blob where hash = ${before.film} and not exists (select 1 from trial where film = ${before.film})`;
  });
}

export interface LayerRow {
  name: string;
  part: number;
  bytes: number;
}

export async function layersOf(sql: Sql, id: string): Promise<LayerRow[]> {
  const rows = await sql<{ name: string; part: number; bytes: string }[]>`
    select name, part, bytes from film_layer where trial_id = ${id} order by ordinal`;
  return rows.map((r) => ({ ...r, bytes: Number(r.bytes) }));
}

export async function thumbnailOf(sql: Sql, id: string): Promise<Uint8Array | null> {
  const [row] = await sql<{ thumbnail: Buffer | null }[]>`select thumbnail from trial where id = ${id}`;
  return row?.thumbnail ?? null;
}

export async function editTrial(
  sql: Sql,
  id: string,
  change: { title?: string; note?: string; starred?: boolean; removed?: boolean },
): Promise<{ shot: string; state: TrialState } | null> {
  const [row] = await sql<{ shot: string; state: TrialState }[]>`update trial set
    title = coalesce(${change.title ?? null}, title), note = coalesce(${change.note ?? null}, note),
    starred = coalesce(${change.starred ?? null}, starred),
    removed_at = case when ${change.removed ?? null}::boolean is null then removed_at when ${change.removed ?? null}::boolean then now() end
    where id = ${id} returning shot_id as shot, state`;
  return row ?? null;
}

export async function savePreview(
  sql: Sql,
  id: string,
  version: number,
  width: number,
  height: number,
  data: Uint8Array,
): Promise<void> {
  await sql`insert into preview (trial_id, version, width, height, data) values (${id}, ${version}, ${width}, ${height}, ${Buffer.from(data)})
    on conflict (trial_id) do update set version = excluded.version, width = excluded.width, height = excluded.height, data = excluded.data`;
}

export async function previewOf(
  sql: Sql,
  id: string,
): Promise<{ version: number; width: number; height: number; data: Uint8Array } | null> {
  const [row] = await sql<{ version: number; width: number; height: number; data: Buffer }[]>`
    select version, width, height, data from preview where trial_id = ${id}`;
  return row ?? null;
}

export async function dropPreview(sql: Sql, id: string): Promise<void> {
  await sql`delete from preview where trial_id = ${id}`;
}

/**
 * Deletes films and checkpoints of trials that have been out of the logbook for so many minutes: until then taking one out
 * can be undone. Returns how many films went.
 */
export async function purgeRemoved(sql: Sql, minutes: number): Promise<number> {
  return sql.begin(async (tx) => {
    const gone = await tx<{ id: string; film: string | null }[]>`
      select id, film from trial
      where removed_at < now() - ${minutes} * interval '1 minute'
        and (film is not null or exists (select 1 from checkpoint where trial_id = id))`;
    if (gone.length === 0) return 0;
    const ids = gone.map((g) => g.id);
    const films = gone.flatMap((g) => (g.film ? [g.film] : []));
    await tx`delete from film_layer where trial_id in ${tx(ids)}`;
    await tx`update trial set film = null where id in ${tx(ids)}`;
    await tx`delete from checkpoint where trial_id in ${tx(ids)}`;
    await tx`delete from checkpoint_chunk where trial_id in ${tx(ids)}`;
    if (films.length > 0)
      await tx`delete from blob where hash in ${tx(films)} and not exists (select 1 from trial where film = blob.hash)`;
    return films.length;
  });
}

/** Trials that wait or are being rendered, in every shot, the first asked for first. */
export async function listWaiting(
  sql: Sql,
): Promise<{ number: number; shot: string; title: string; state: TrialState; fraction: number }[]> {
  return sql`
    select trial.number, shot.name as shot, title, state, fraction from trial join shot on shot.id = shot_id
    where state in ('queued', 'rendering', 'storing') and removed_at is null order by trial.created_at`;
}
