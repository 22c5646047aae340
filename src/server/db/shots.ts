import type { RevisionLine } from '@/contract/shot';
import { NO_STACK, parseStack, type StackDocument } from '@/core/comp';
import { type Moods, NO_MOODS, parseMoods } from '@/core/moods';
import { FIRST_OUTPUTS, type Outputs, parseOutputs } from '@/core/outputs';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { type SceneDocument, sceneChanges, sceneSchema } from '@/core/scene';
import type { Sql } from './connection';
import { newId } from './ids';
import { oneAtATime, transaction } from './transaction';

export interface ShotRow {
  id: string;
  name: string;
  baseline: string | null;
}

export interface RevisionRow {
  id: string;
  shot: string;
  number: number;
  hash: string;
  document: SceneDocument;
  geometry: string;
}

export interface DraftRow {
  version: number;
  recipe: Recipe;
  /** The revision that the scene was last the same as. */
  revision: string;
  /** The scene as it is being edited; null while it is the revision's. */
  scene: SceneDocument | null;
  outputs: Outputs;
  moods: Moods;
  stack: StackDocument;
}

export async function listShots(sql: Sql, removed = false): Promise<ShotRow[]> {
  return sql<ShotRow[]>`
    select id, name, baseline_trial as baseline from shot where (removed_at is not null) = ${removed} order by position, name`;
}

/** Renames a shot; false when another has the name. */
export async function renameShot(sql: Sql, id: string, name: string): Promise<boolean> {
  await freeName(sql, name, id);
  const [row] = await sql`
    update shot set name = ${name} where id = ${id} and not exists (select 1 from shot where name = ${name} and id <> ${id})
    returning id`;
  return row !== undefined;
}

/** Takes a shot out of the list, or puts it back. Its trials stay. */
export async function removeShot(sql: Sql, id: string, removed: boolean): Promise<void> {
  await sql`update shot set removed_at = ${removed ? sql`now()` : null} where id = ${id}`;
}

/** A removed shot gives way to one that wants its name. */
async function freeName(sql: Sql, name: string, but: string | null): Promise<void> {
  await sql`update shot set name = name || ' ' || left(id::text, 13)
            where name = ${name} and removed_at is not null and id is distinct from ${but}`;
}

export async function shotById(sql: Sql, id: string): Promise<ShotRow | null> {
  const [row] = await sql<ShotRow[]>`select id, name, baseline_trial as baseline from shot where id = ${id}`;
  return row ?? null;
}

/** A stored revision with the defaults of what documents did not have when it was written. */
function read(row: RevisionRow | undefined): RevisionRow | null {
  return row ? { ...row, document: sceneSchema.parse(row.document) } : null;
}

export async function latestRevision(sql: Sql, shot: string): Promise<RevisionRow | null> {
  const [row] = await sql<RevisionRow[]>`
    select id, shot_id as shot, number, hash, document, geometry from scene_revision where shot_id = ${shot} order by number desc limit 1`;
  return read(row);
}

export async function revisionById(sql: Sql, id: string): Promise<RevisionRow | null> {
  const [row] = await sql<RevisionRow[]>`
    select id, shot_id as shot, number, hash, document, geometry from scene_revision where id = ${id}`;
  return read(row);
}

/** Key under which one process at a time gives out names. */
const NAMING = 7315;

/** Adds a shot under a name that no other has; null when it is taken. */
export async function addShot(
  sql: Sql,
  name: string,
  scene: { document: SceneDocument; geometry: string; hash: string },
  recipe: Recipe,
): Promise<string | null> {
  return oneAtATime(sql, NAMING, async () => {
    await freeName(sql, name, null);
    const [taken] = await sql`select 1 from shot where name = ${name}`;
    if (taken) return null;
    const [{ last }] = await sql<{ last: number }[]>`select coalesce(max(position), 0) + 1 as last from shot`;
    return putShot(sql, name, last, scene, recipe);
  });
}

/** Adds a shot with its first revision, or a new revision when the scene has changed. Returns the shot's id. */
export async function putShot(
  sql: Sql,
  name: string,
  position: number,
  scene: { document: SceneDocument; geometry: string; hash: string },
  recipe: Recipe,
): Promise<string> {
  return transaction(sql, async (tx) => {
    await tx`insert into shot (id, name, position) values (${newId()}, ${name}, ${position}) on conflict (name) do nothing`;
    const [shot] = await tx<{ id: string }[]>`select id from shot where name = ${name} for update`;
    const [latest] = await tx<{ number: number }[]>`
      select number from scene_revision where shot_id = ${shot.id} order by number desc limit 1`;
    const [known] = await tx`select 1 from scene_revision where shot_id = ${shot.id} and hash = ${scene.hash}`;
    if (known) return shot.id;
    const revision = newId();
    await tx`insert into scene_revision (id, shot_id, number, hash, document, geometry)
             values (${revision}, ${shot.id}, ${(latest?.number ?? 0) + 1}, ${scene.hash}, ${tx.json(scene.document as never)}, ${scene.geometry})`;
    // A scene that is being edited, or has been, goes on from its own revision.
    await tx`insert into draft (shot_id, revision_id, recipe) values (${shot.id}, ${revision}, ${tx.json(recipe as never)})
             on conflict (shot_id) do update set revision_id = excluded.revision_id, version = draft.version + 1
             where draft.scene is null and (select words from scene_revision where id = draft.revision_id) = '[]'`;
    return shot.id;
  });
}

export async function draftOf(sql: Sql, shot: string): Promise<DraftRow | null> {
  const [row] = await sql<
    (Omit<DraftRow, 'outputs' | 'moods' | 'stack'> & { outputs: unknown; moods: unknown; stack: unknown })[]
  >`select version, recipe, revision_id as revision, scene, outputs, moods, stack from draft where shot_id = ${shot}`;
  if (!row) return null;
  return {
    ...row,
    recipe: parseRecipe(row.recipe),
    scene: row.scene && sceneSchema.parse(row.scene),
    outputs: row.outputs ? parseOutputs(row.outputs) : FIRST_OUTPUTS,
    moods: row.moods ? parseMoods(row.moods) : NO_MOODS,
    stack: row.stack ? parseStack(row.stack) : NO_STACK,
  };
}

/** Sets what of the draft is given when `version` is still its version; null when it is stale. */
export async function saveDraft(
  sql: Sql,
  shot: string,
  version: number,
  change: Partial<Pick<DraftRow, 'recipe' | 'outputs' | 'moods' | 'stack'>> & { scene?: SceneDocument },
): Promise<number | null> {
  const { recipe, scene, outputs, moods, stack } = change;
  const [row] = await sql<{ version: number }[]>`
    update draft set
      recipe = coalesce(${recipe ? sql.json(recipe as never) : null}, recipe),
      scene = coalesce(${scene ? sql.json(scene as never) : null}, scene),
      outputs = coalesce(${outputs ? sql.json(outputs as never) : null}, outputs),
      moods = coalesce(${moods ? sql.json(moods as never) : null}, moods),
      stack = coalesce(${stack ? sql.json(stack as never) : null}, stack),
      version = version + 1, updated_at = now()
    where shot_id = ${shot} and version = ${version} returning version`;
  return row?.version ?? null;
}

/**
 * Makes the draft's scene a revision, unless it is the same as its revision. `hashOf` gives a document's hash. Returns
 * the revision that the draft now stands on.
 */
export async function freezeDraft(
  sql: Sql,
  shot: string,
  hashOf: (document: SceneDocument) => string,
): Promise<RevisionRow> {
  return transaction(sql, async (tx) => {
    await tx`select 1 from draft where shot_id = ${shot} for update`;
    const draft = (await draftOf(tx, shot))!;
    const from = (await revisionById(tx, draft.revision))!;
    const scene = draft.scene;
    if (!scene || sceneChanges(from.document, scene).length === 0) return from;
    const words = sceneChanges(from.document, scene);
    const [{ next }] = await tx<{ next: number }[]>`
      select max(number) + 1 as next from scene_revision where shot_id = ${shot}`;
    const id = newId();
    await tx`insert into scene_revision (id, shot_id, number, hash, document, geometry, words)
             values (${id}, ${shot}, ${next}, ${hashOf(scene)}, ${tx.json(scene as never)}, ${scene.geometry.hash || from.geometry}, ${tx.json(words)})`;
    await tx`update draft set revision_id = ${id}, scene = null where shot_id = ${shot}`;
    return (await revisionById(tx, id))!;
  });
}

/**
 * A revision with another document beside the draft's, which stays as it is; one that the shot has already is taken. Made
 * for trials that step a field of the scene.
 */
export async function freezeVariant(
  sql: Sql,
  from: RevisionRow,
  document: SceneDocument,
  hash: string,
): Promise<RevisionRow> {
  return transaction(sql, async (tx) => {
    await tx`select 1 from shot where id = ${from.shot} for update`;
    const [known] = await tx<{ id: string }[]>`
      select id from scene_revision where shot_id = ${from.shot} and hash = ${hash} order by number desc limit 1`;
    if (known) return (await revisionById(tx, known.id))!;
    const [{ next }] = await tx<{ next: number }[]>`
      select max(number) + 1 as next from scene_revision where shot_id = ${from.shot}`;
    const id = newId();
    await tx`insert into scene_revision (id, shot_id, number, hash, document, geometry, words)
             values (${id}, ${from.shot}, ${next}, ${hash}, ${tx.json(document as never)}, ${from.geometry}, ${tx.json(sceneChanges(from.document, document))})`;
    return (await revisionById(tx, id))!;
  });
}

/** Claims a shot's samples: true once, for a shot that has no trial yet. */
export async function claimSamples(sql: Sql, shot: string): Promise<boolean> {
  const [row] = await sql<{ first: boolean }[]>`
    update shot set sampled = true where id = ${shot} and not sampled
    returning not exists (select 1 from trial where shot_id = shot.id) as first`;
  return row?.first ?? false;
}

/** Gives a shot moods to begin with, where nobody has balanced it. */
export async function firstMoods(sql: Sql, shot: string, moods: Moods): Promise<void> {
  await sql`update draft set moods = ${sql.json(moods as never)} where shot_id = ${shot} and moods is null`;
}

/** A shot's revisions, newest first. */
export async function listRevisions(sql: Sql, shot: string): Promise<RevisionLine[]> {
  return sql<RevisionLine[]>`
    select r.id, r.number, r.words, r.created_at as "createdAt",
           (select count(*)::int from trial where revision_id = r.id and run_id is null and removed_at is null) as trials
    from scene_revision r where r.shot_id = ${shot} order by r.number desc limit 200`;
}

/** Makes a trial the shot's baseline, or none. */
export async function setBaseline(sql: Sql, shot: string, trial: string | null): Promise<void> {
  await sql`update shot set baseline_trial = ${trial} where id = ${shot}`;
}
