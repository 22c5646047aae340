import type { NewTrial } from '@/contract/trial';
import { filmBytes, makeSpec } from '@/core/film';
import { isOfVariant, type Outputs, pictureRecipe, type Variant } from '@/core/outputs';
import { canonicalJson, changeText, differences, parseRecipe, type Recipe } from '@/core/recipe';
import { MOST_FILM_BYTES } from '@/core/runs';
import { FieldError, lightGroups, type SceneDocument, withField } from '@/core/scene';
import { pictureNeeds } from '@/core/stacks';
import { sha256 } from '@/node/hash';
import { storedBytes } from '../db/blobs';
import type { Sql } from '../db/connection';
import { draftOf, freezeDraft, freezeVariant, type RevisionRow, revisionById } from '../db/shots';
import { type NewTrialRow, type TrialRow, trialById } from '../db/trials';
import { findShot } from './find';
import { Refusal } from './respond';

/** The revision with fields of its scene set; itself where there are none to set. */
async function withFields(sql: Sql, base: RevisionRow, fields: NewTrial['fields']): Promise<RevisionRow> {
  if (fields.length === 0) return base;
  try {
    const document = fields.reduce((d, f) => withField(d, f.owner, f.path, f.value), base.document);
    return await freezeVariant(sql, base, document, sha256(canonicalJson(document)));
  } catch (error) {
    if (error instanceof FieldError) throw new Refusal(400, 'no-field', error.message, 'fields');
    throw error;
  }
}

/** Bytes that stored films may take together. */
const BUDGET_BYTES = 20e9;

/** Bytes that are left for films. */
export const leftForFilms = async (sql: Sql): Promise<number> => Math.max(0, BUDGET_BYTES - (await storedBytes(sql)));

/** Refuses films that do not fit on the disk beside those that are stored. */
export async function checkBudget(sql: Sql, bytes: number): Promise<void> {
  if (bytes <= (await leftForFilms(sql))) return;
  const stored = await storedBytes(sql);
  const gigabytes = (n: number) => (n / 1e9).toFixed(1);
  throw new Refusal(
    400,
    'budget',
    `stored films take ${gigabytes(stored)} GB of ${BUDGET_BYTES / 1e9}, and ${gigabytes(bytes)} GB more are needed; remove trials first`,
    'disk',
    { budgetBytes: BUDGET_BYTES },
  );
}

/** Refuses a film that fits neither memory nor disk. */
async function checkRoom(sql: Sql, recipe: Recipe, document: SceneDocument): Promise<void> {
  const spec = makeSpec(recipe, document);
  const bytes = filmBytes(spec);
  if (bytes > MOST_FILM_BYTES)
    throw new Refusal(400, 'film-too-large', `the film would take ${(bytes / 1e9).toFixed(1)} GB`, 'recipe.size', {
      mostBytes: MOST_FILM_BYTES,
    });
  await checkBudget(sql, spec.planes.count * spec.region.width * spec.region.height * 4);
}

/** Refuses what the scene of a revision has not. */
function checkFits({ document }: RevisionRow, asked: NewTrial, recipe: Recipe): void {
  if (!document.cameras.some((c) => c.name === asked.camera))
    throw new Refusal(400, 'no-camera', `the scene has no camera ${asked.camera}`, 'camera');
  const { first, last } = document.frames;
  if (asked.frame !== null && (asked.frame < first || asked.frame > last))
    throw new Refusal(400, 'no-frame', `the shot has frames ${first} to ${last}`, 'frame', { first, last });
  const groups = lightGroups(document);
  const stray = recipe.film.pairs.find((p) => !groups.includes(p.group));
  if (stray)
    throw new Refusal(400, 'no-group', `the scene has no light group ${stray.group}`, 'film.pairs', { groups });
}

/** What a trial is called that was given no title: what it changes against the one it comes from. */
function titleOf(recipe: Recipe, parent: TrialRow | null): string {
  if (!parent) return recipe.name;
  const changed = differences(parent.recipe, recipe);
  return changed.length > 0 ? changed.slice(0, 2).map(changeText).join(', ') : 'same again';
}

/** The variant of an output, or the shot's own picture, with all outputs that are of it. */
function picturedBy(
  { list, masks }: Outputs,
  id: string | null,
): Pick<Outputs, 'list' | 'masks'> & { variant: Variant | null; title: string | null } {
  const output = list.find((o) => o.id === id);
  if (id !== null && !output) throw new Refusal(400, 'no-output', 'the shot has no such output', 'output');
  const variant = output?.variant ?? null;
  const title = output && !isOfVariant(output, null) ? output.name : null;
  return { variant, title, masks, list: list.filter((o) => isOfVariant(o, variant)) };
}

/** A trial as it was sent, checked: the scene it is of is frozen. Throws a refusal where it cannot be rendered. */
export async function sentTrial(sql: Sql, asked: NewTrial): Promise<NewTrialRow> {
  const shot = await findShot(asked.shot);
  const base = asked.revision
    ? await revisionById(sql, asked.revision)
    : await freezeDraft(sql, shot.id, (document) => sha256(canonicalJson(document)));
  if (base?.shot !== shot.id) throw new Refusal(400, 'no-revision', 'the shot has no such scene revision', 'revision');
  const revision = await withFields(sql, base, asked.fields);
  const { outputs, stack } = (await draftOf(sql, shot.id))!;
  const frozen = picturedBy(outputs, asked.output);
  const groups = lightGroups(revision.document);
  const needed = pictureNeeds(stack, outputs.list, frozen.variant);
  const recipe = pictureRecipe(parseRecipe(asked.recipe), frozen, frozen.variant, groups, needed);
  checkFits(revision, asked, recipe);
  await checkRoom(sql, recipe, revision.document);
  const parent = asked.parent ? await trialById(sql, asked.parent) : null;
  return {
    shot: shot.id,
    revision: revision.id,
    recipe,
    outputs: { ...outputs, list: frozen.list },
    recipeHash: sha256(canonicalJson(recipe)),
    camera: asked.camera,
    frame: asked.frame,
    parent: parent?.id ?? null,
    title: asked.title?.trim() || frozen.title || titleOf(recipe, parent),
    predicted: asked.predicted,
    ladder: asked.ladder,
    key: asked.key,
  };
}
