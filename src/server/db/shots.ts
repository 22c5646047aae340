import { parseRecipe, type Recipe } from '@/core/recipe';
import { type SceneDocument, sceneSchema } from '@/core/scene';
import type { Sql } from './connection';
import { newId } from './ids';

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
  revision: string;
}

export async function listShots(sql: Sql): Promise<ShotRow[]> {
  return sql<ShotRow[]>`select id, name, baseline_trial as baseline from shot order by position, name`;
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

/** Adds a shot with its first revision, or a new revision when the scene has changed. Returns the shot's id. */
export async function putShot(
  sql: Sql,
  name: string,
  position: number,
  scene: { document: SceneDocument; geometry: string; hash: string },
  recipe: Recipe,
): Promise<string> {
  return sql.begin(async (tx) => {
    await tx`insert into shot (id, name, position) values (${newId()}, ${name}, ${position}) on conflict (name) do nothing`;
    const [shot] = await tx<{ id: string }[]>`select id from shot where name = ${name} for update`;
    const [latest] = await tx<{ id: string; number: number; hash: string }[]>`
      select id, number, hash from scene_revision where shot_id = ${shot.id} order by number desc limit 1`;
    if (latest?.hash === scene.hash) return shot.id;
    const revision = newId();
    await tx`insert into scene_revision (id, shot_id, number, hash, document, geometry)
             values (${revision}, ${shot.id}, ${(latest?.number ?? 0) + 1}, ${scene.hash}, ${tx.json(scene.document as never)}, ${scene.geometry})`;
    await tx`insert into draft (shot_id, revision_id, recipe) values (${shot.id}, ${revision}, ${tx.json(recipe as never)})
             on conflict (shot_id) do update set revision_id = excluded.revision_id, version = draft.version + 1`;
    return shot.id;
  });
}

export async function draftOf(sql: Sql, shot: string): Promise<DraftRow | null> {
  const [row] = await sql<
    DraftRow[]
  >`select version, recipe, revision_id as revision from draft where shot_id = ${shot}`;
  return row ? { ...row, recipe: parseRecipe(row.recipe) } : null;
}

/** Sets the draft's recipe when `version` is still its version; null when it is stale. */
export async function saveDraft(sql: Sql, shot: string, version: number, recipe: Recipe): Promise<number | null> {
  const [row] = await sql<{ version: number }[]>`
    update draft set recipe = ${sql.json(recipe as never)}, version = version + 1, updated_at = now()
    where shot_id = ${shot} and version = ${version} returning version`;
  return row?.version ?? null;
}

export async function setBaseline(sql: Sql, shot: string, trial: string | null): Promise<void> {
  await sql`update shot set baseline_trial = ${trial} where id = ${shot}`;
}
