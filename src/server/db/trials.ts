import type { Prediction } from '@/contract/terms';
import type { LadderStep, LogbookPage, Trial, TrialLine, TrialState } from '@/contract/trial';
import { type Outputs, parseOutputs } from '@/core/outputs';
import { canonicalJson, frameOf, parseRecipe, type Recipe } from '@/core/recipe';
import type { Sql } from './connection';
import { denoisedLine } from './denoised';
import { newId } from './ids';
import { type Inside, transaction } from './transaction';
import { strandedTrials } from './trial-life';

/** A trial as it is stored: what the contract tells of one, and what only the server needs. */
export interface TrialRow extends Trial {
  recipeHash: string;
  film: string | null;
  finishedAt: string | null;
}

type Stored = Omit<TrialRow, 'recipeName' | 'pixels'>;
type StoredLine = Omit<TrialLine, 'recipeName' | 'pixels'> & { recipe: Pick<Recipe, 'name' | 'size' | 'region'> };

/** What the picture of a trial differs in from the shot's, and the names of its outputs. */
const variantFor = (sql: Sql) => sql`
  case when jsonb_typeof(trial.outputs #> '{list,0,variant}') = 'object' and trial.outputs #> '{list,0,variant}' <> '{}'
       then jsonb_build_object('variant', trial.outputs #> '{list,0,variant}', 'names',
         (select jsonb_agg(o -> 'name') from jsonb_array_elements(trial.outputs -> 'list') o)) end as "variantFor"`;
/** Which run it is a frame of. */
const runOf = (sql: Sql) => sql`
  case when run_id is not null then jsonb_build_object('id', run_id, 'picture', picture,
    'number', (select number from run where run.id = run_id)) end as run`;
/** Layers of a frame whose film was not kept. */
const delivered = (sql: Sql) => sql`
  case when run_id is not null and film is null
       then (select coalesce(jsonb_agg(distinct l), '[]') from run_file, jsonb_array_elements(layers) l where trial_id = trial.id)
  end as delivered`;
const line = (sql: Sql) => sql`
  trial.id, shot_id as shot, coalesce(number, 0) as number, ${runOf(sql)}, revision_id as revision, camera, frame, parent, title, note, starred, state, fraction,
  left_ms as "leftMs", untimed, sample, fault, seconds, noise, predicted, ladder, ${variantFor(sql)}, created_at as "createdAt", ${denoisedLine(sql)}`;
/** Enough of the hash of a film to tell it from another; of a file, where only those are kept. */
const filmMark = (sql: Sql) => sql`
  left(coalesce(film, (select min(hash) from run_file where trial_id = trial.id)), 12) as film`;

const asLine = ({ recipe, ...row }: StoredLine): TrialLine => ({
  ...row,
  createdAt: new Date(row.createdAt).toISOString(),
  recipeName: recipe.name,
  pixels: frameOf(recipe),
});

/** A stored trial; settings that did not exist when it was made have their defaults. */
function whole(row: Stored): TrialRow {
  const recipe = parseRecipe(row.recipe);
  const outputs = row.outputs && parseOutputs(row.outputs);
  return { ...row, recipe, outputs, recipeName: recipe.name, pixels: frameOf(recipe) };
}

/** What a line tells of its recipe: no more, since whole recipes and figures would weigh the logbook down. */
const briefRecipe = (sql: Sql) => sql`
  jsonb_build_object('name', document -> 'name', 'size', document -> 'size', 'region', document -> 'region') as recipe`;

/** A page of a shot's logbook, newest first: trials numbered below `before`, and how many there are in all. */
export async function listTrials(sql: Sql, shot: string, before: number | null, most: number): Promise<LogbookPage> {
  const rows = await sql<StoredLine[]>`
    select ${line(sql)}, ${filmMark(sql)}, ${briefRecipe(sql)} from trial join recipe on recipe.hash = recipe_hash
    where shot_id = ${shot} and run_id is null and removed_at is null and (${before}::int is null or number < ${before}) order by number desc limit ${most}`;
  const [{ total }] = await sql<{ total: number }[]>`
    select count(*)::int as total from trial where shot_id = ${shot} and run_id is null and removed_at is null`;
  return { trials: rows.map(asLine), total };
}

/** A trial as the logbook lists it; null when it is not in it. */
export async function trialLine(sql: Sql, id: string): Promise<TrialLine | null> {
  const [row] = await sql<StoredLine[]>`
    select ${line(sql)}, ${filmMark(sql)}, ${briefRecipe(sql)} from trial join recipe on recipe.hash = recipe_hash
    where trial.id = ${id} and removed_at is null`;
  return row ? asLine(row) : null;
}

export async function trialById(sql: Sql, id: string): Promise<TrialRow | null> {
  const [row] = await sql<Stored[]>`
    select ${line(sql)}, document as recipe, recipe_hash as "recipeHash", trial.outputs, figures, spec, film, finished_at as "finishedAt", ${delivered(sql)}
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
  outputs?: Outputs | null;
  predicted?: Prediction | null;
  ladder?: LadderStep | null;
  sample?: boolean;
  /** Under which it was sent. */
  key?: string | null;
}

/** Adds a trial to the logbook, numbered within its shot; one that was sent before under the same key is given back as it is. */
export async function addTrial(sql: Sql, trial: NewTrialRow, queue: Inside): Promise<{ id: string; number: number }> {
  return transaction(sql, async (tx) => {
    await tx`insert into recipe (hash, document) values (${trial.recipeHash}, ${tx.json(JSON.parse(canonicalJson(trial.recipe)))}) on conflict do nothing`;
    await tx`select 1 from shot where id = ${trial.shot} for update`;
    const key = trial.key ?? null;
    const [known] = await tx<
      { id: string; number: number }[]
    >`select id, number from trial where key = ${key} and shot_id = ${trial.shot}`;
    if (known) return known;
    const [{ next }] = await tx<
      { next: number }[]
    >`select coalesce(max(number), 0) + 1 as next from trial where shot_id = ${trial.shot}`;
    const id = newId();
    await tx`insert into trial (id, shot_id, number, revision_id, recipe_hash, camera, frame, parent, title, predicted, ladder, key, sample, outputs)
      values (${id}, ${trial.shot}, ${next}, ${trial.revision}, ${trial.recipeHash}, ${trial.camera}, ${trial.frame ?? null}, ${trial.parent}, ${trial.title}, ${trial.predicted ? tx.json(trial.predicted as never) : null}, ${trial.ladder ? tx.json(trial.ladder as never) : null}, ${key}, ${trial.sample ?? false}, ${trial.outputs ? tx.json(trial.outputs as never) : null})`;
    await queue(tx, id);
    return { id, number: next };
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

export interface TrialChange {
  title?: string;
  note?: string;
  starred?: boolean;
  removed?: boolean;
}

/** Changes what is told of a trial. Taken out of the logbook it is to stop; back in it, it goes on where it had not ended. */
export async function editTrial(
  sql: Sql,
  id: string,
  change: TrialChange,
  queue: Inside,
): Promise<{ shot: string; state: TrialState } | null> {
  const removed = change.removed ?? null;
  return transaction(sql, async (tx) => {
    const [row] = await tx<{ shot: string; state: TrialState }[]>`update trial set
      title = coalesce(${change.title ?? null}, title), note = coalesce(${change.note ?? null}, note),
      starred = coalesce(${change.starred ?? null}, starred),
      removed_at = case when ${removed}::boolean is null then removed_at when ${removed}::boolean then now() end,
      stop_requested = case when ${removed}::boolean is null then stop_requested
                            else ${removed}::boolean and state in ('queued', 'rendering') end
      where id = ${id} returning shot_id as shot, state`;
    if (!row) return null;
    const waits = row.state === 'queued' || row.state === 'rendering' || row.state === 'storing';
    if (removed === false && waits) for (const s of await strandedTrials(tx, id)) await queue(tx, s);
    return row;
  });
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
 * Deletes films and checkpoints of trials that have been out of the logbook for so many minutes, and of runs out of their list: until then taking one out
 * can be undone. Returns how many films went.
 */
export async function purgeRemoved(sql: Sql, minutes: number): Promise<number> {
  return transaction(sql, async (tx) => {
    const gone = await tx<{ id: string; film: string | null }[]>`
      select id, film from trial
      where (removed_at < now() - ${minutes} * interval '1 minute'
          or run_id in (select run.id from run where run.removed_at < now() - ${minutes} * interval '1 minute'))
        and (film is not null or exists (select 1 from checkpoint where trial_id = id))`;
    if (gone.length === 0) return 0;
    const ids = gone.map((g) => g.id);
    const films = gone.flatMap((g) => (g.film ? [g.film] : []));
    const made = await tx<
      { result: string | null }[]
    >`delete from denoised where trial_id in ${tx(ids)} returning result`;
    await tx`delete from film_layer where trial_id in ${tx(ids)}`;
    await tx`update trial set film = null where id in ${tx(ids)}`;
    await tx`delete from checkpoint where trial_id in ${tx(ids)}`;
    await tx`delete from checkpoint_chunk where trial_id in ${tx(ids)}`;
    const contents = [...films, ...made.flatMap((d) => (d.result ? [d.result] : []))];
    if (contents.length > 0)
      await tx`delete from blob where hash in ${tx(contents)} and not exists (select 1 from trial where film = blob.hash)
        and not exists (select 1 from denoised where result = blob.hash)`;
    return films.length;
  });
}
