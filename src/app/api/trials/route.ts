import { z } from 'zod';
import { filmBytes, makeSpec } from '@/core/film';
import { canonicalJson, changeText, differences, parseRecipe } from '@/core/recipe';
import { FieldError, lightGroups, withField } from '@/core/scene';
import { sha256 } from '@/render/node-files';
import { announce, database } from '@/server/db/connection';
import { isId } from '@/server/db/ids';
import { freezeDraft, freezeVariant, revisionById } from '@/server/db/shots';
import { addTrial, storedBytes, trialById } from '@/server/db/trials';
import { findShot, findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';
import { sendingQueue, TRIAL_QUEUE } from '@/server/jobs/queue';

const OWNERS = ['object', 'light', 'camera', 'material', 'set', 'rules', 'environment', 'fog', 'look'] as const;
const identifier = z.string().refine(isId, 'must be an identifier as the server gave it');
const interval = z.strictObject({
  value: z.number().nonnegative(),
  low: z.number().nonnegative(),
  high: z.number().nonnegative(),
});
const request_ = z.strictObject({
  shot: z.string(),
  /** Scene revision; without it the draft's scene, which becomes one. */
  revision: identifier.optional(),
  frame: z.number().int().nullable().default(null),
  camera: z.string(),
  recipe: z.unknown(),
  parent: identifier.nullable().default(null),
  title: z.string().max(120).optional(),
  /** Fields of the scene that are set for this trial alone; the draft stays as it is. */
  fields: z
    .array(
      z.strictObject({
        owner: z.strictObject({ kind: z.enum(OWNERS), name: z.string() }),
        path: z.string(),
        value: z.unknown(),
      }),
    )
    .max(2)
    .default([]),
  /** The ladder it is a step of. */
  ladder: z
    .strictObject({
      id: identifier,
      at: z
        .array(z.strictObject({ label: z.string().max(120), value: z.union([z.number(), z.string().max(80)]) }))
        .min(1)
        .max(2),
    })
    .nullable()
    .default(null),
  /** What it is predicted to come to, to be set against what is measured. */
  predicted: z.strictObject({ noise: interval, seconds: interval }).nullable().default(null),
});

/** The revision with fields of its scene set; itself where there are none to set. */
async function withFields(
  sql: ReturnType<typeof database>,
  base: NonNullable<Awaited<ReturnType<typeof revisionById>>>,
  fields: z.infer<typeof request_>['fields'],
) {
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
/** Largest film a trial may hold in memory. */
const MOST_FILM_BYTES = 4e9;

/** Queues a trial of a recipe. */
export const POST = (request: Request) =>
  answer(request, async () => {
    const asked = await body(request, request_);
    const sql = database();
    const shot = await findShot(asked.shot);
    const base = asked.revision
      ? await revisionById(sql, asked.revision)
      : await freezeDraft(sql, shot.id, (document) => sha256(canonicalJson(document)));
    if (base?.shot !== shot.id)
      throw new Refusal(400, 'no-revision', 'the shot has no such scene revision', 'revision');
    const revision = await withFields(sql, base, asked.fields);
    if (!revision.document.cameras.some((c) => c.name === asked.camera))
      throw new Refusal(400, 'no-camera', `the scene has no camera ${asked.camera}`, 'camera');
    const { first, last } = revision.document.frames;
    if (asked.frame !== null && (asked.frame < first || asked.frame > last))
      throw new Refusal(400, 'no-frame', `the shot has frames ${first} to ${last}`, 'frame', { first, last });
    const recipe = parseRecipe(asked.recipe);
    const groups = lightGroups(revision.document);
    const stray = recipe.film.pairs.find((p) => !groups.includes(p.group));
    if (stray)
      throw new Refusal(400, 'no-group', `the scene has no light group ${stray.group}`, 'film.pairs', { groups });
    const spec = makeSpec(recipe, revision.document);
    const bytes = filmBytes(spec);
    if (bytes > MOST_FILM_BYTES)
      throw new Refusal(400, 'film-too-large', `the film would take ${(bytes / 1e9).toFixed(1)} GB`, 'recipe.size', {
        mostBytes: MOST_FILM_BYTES,
      });
    const layerFloats = spec.planes.count * spec.region.width * spec.region.height * 4;
    const stored = await storedBytes(sql);
    if (stored + layerFloats > BUDGET_BYTES) {
      throw new Refusal(
        400,
        'budget',
        `stored films take ${(stored / 1e9).toFixed(1)} GB of ${BUDGET_BYTES / 1e9}; remove trials first`,
        'disk',
        { budgetBytes: BUDGET_BYTES },
      );
    }
    const parent = asked.parent ? await trialById(sql, asked.parent) : null;
    const changed = parent ? differences(parent.recipe, recipe) : [];
    const title =
      asked.title?.trim() ||
      (parent ? (changed.length > 0 ? changed.slice(0, 2).map(changeText).join(', ') : 'same again') : recipe.name);
    const { id, number } = await addTrial(sql, {
      shot: shot.id,
      revision: revision.id,
      recipe,
      recipeHash: sha256(canonicalJson(recipe)),
      camera: asked.camera,
      frame: asked.frame,
      parent: parent?.id ?? null,
      title,
      predicted: asked.predicted,
      ladder: asked.ladder,
    });
    await (await sendingQueue(sql)).send(TRIAL_QUEUE, { trial: id });
    await announce(sql, { type: 'trial', id, shot: shot.id, state: 'queued' });
    return Response.json({ trial: await findTrial(id), number, groups }, { status: 201 });
  });
