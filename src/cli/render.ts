import { writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, extname, join } from 'node:path';
import { LAYER, layersKept, strangers } from '@/core/film';
import { decodeHdr } from '@/core/image';
import { chosenOf, type Outputs, pictureRecipe, pictures, withMade, writes } from '@/core/outputs';
import { frameOf, isPreset, PRESETS, parseRecipe, type Recipe, RecipeError, withSetting } from '@/core/recipe';
import {
  emptyPicks,
  lightGroups,
  MOST_GROUPS,
  namedGroups,
  pickableOf,
  picturedEnvironment,
  type Scene,
  type SceneDocument,
  UNASSIGNED,
} from '@/core/scene';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { cameraNamed } from '@/render/pool/scenes';
import { type Arguments, one, parseArguments, UsageError, wholeNumber } from './args';
import type { Assets } from './assets';
import { bandsOf, type Launch, type Picture, renderPicture } from './picture';
import { file, loadBase, loadPackage, type Warning } from './scenes';
import { loadOutputs } from './split';

const OPTIONS = {
  recipe: 'value',
  outputs: 'value',
  set: 'values',
  env: 'value',
  camera: 'value',
  size: 'value',
  region: 'value',
  threads: 'value',
  seed: 'value',
  frame: 'value',
  bands: 'value',
  out: 'value',
  json: 'value',
  layers: 'values',
  depth: 'value',
  denoise: 'value',
} as const;

/** The scene of a name or file, under the environment that the arguments name; `base` where it has been read already. */
export async function loadScene(name: string, args: Arguments, warnings: Warning[], base?: Scene): Promise<Scene> {
  const scene = base ?? (await loadBase(name, warnings));
  const env = one(args, 'env');
  if (env !== undefined) {
    try {
      scene.pictures.set('env', decodeHdr(await file(env)));
    } catch (error) {
      if (error instanceof UsageError) throw error;
      throw new UsageError(`${env}: ${(error as Error).message}`);
    }
    scene.document.environment = picturedEnvironment(scene.document.environment, 'env');
  }
  return scene;
}

function parseJsonValue(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

/**
 * The recipe that the arguments ask for; `natural` is the picture's size where they name none. A package has one of its own, which is
 * taken where none is named.
 */
export async function loadRecipe(
  args: Arguments,
  natural: { width: number; height: number },
  packed: Recipe | null = null,
): Promise<Recipe> {
  const asked = one(args, 'recipe');
  const name = asked ?? 'Check';
  let value: unknown;
  if (packed && asked === undefined) value = packed;
  else if (isPreset(name)) value = { ...PRESETS[name], size: { ...PRESETS[name].size, ...natural } };
  else if (extname(name) === '.json') {
    const text = new TextDecoder().decode(await file(name));
    try {
      value = JSON.parse(text);
    } catch (error) {
      throw new UsageError(`${name}: ${(error as Error).message}`);
    }
    if (typeof value !== 'object' || value === null) throw new UsageError(`${name}: a recipe is a JSON object`);
  } else
    throw new UsageError(`--recipe ${name}: neither a recipe (${Object.keys(PRESETS).join(', ')}) nor a .json file`);
  for (const pair of args.options.get('set') ?? []) {
    const at = pair.indexOf('=');
    if (at < 1) throw new UsageError(`--set ${pair}: must read key=value`);
    value = withSetting(value, pair.slice(0, at), parseJsonValue(pair.slice(at + 1)));
  }
  const size = one(args, 'size');
  if (size !== undefined) {
    const m = /^(\d+)x(\d+)$/.exec(size);
    if (!m) throw new UsageError(`--size ${size}: must read WIDTHxHEIGHT in pixels`);
    value = withSetting(value, 'size', { width: Number(m[1]), height: Number(m[2]), scale: 100 });
  }
  const seed = wholeNumber(args, 'seed', 0, 4294967295);
  if (seed !== undefined) value = withSetting(value, 'sampling.seed', seed);
  let recipe = parseRecipe(value);
  const region = one(args, 'region');
  if (region !== undefined) {
    const m = /^(\d+),(\d+),(\d+),(\d+)$/.exec(region);
    const { width, height } = frameOf(recipe);
    const [x, y, w, h] = m ? m.slice(1).map(Number) : [0, 0, 0, 0];
    if (!m || w < 1 || h < 1 || x + w > width || y + h > height)
      throw new UsageError(`--region ${region}: must read x,y,w,h in pixels within ${width}x${height}`);
    recipe = parseRecipe(withSetting(recipe, 'region', { x: x / width, y: y / height, w: w / width, h: h / height }));
  }
  return recipe;
}

/** A film beside another, named for what is in it. */
const beside = (out: string, name: string) => join(dirname(out), `${basename(out, '.exr')}.${name}.exr`);

/**
 * The pictures that outputs are of, each with a film that keeps what they write: the shot's own into `out`, variants beside
 * it. Throws for what a film of the scene cannot keep, and for masks of what is not there.
 */
function picturesOf(
  recipe: Recipe,
  path: string,
  { list, masks }: Outputs,
  document: SceneDocument,
  out: string,
): Picture[] {
  const groups = lightGroups(document);
  const from = pickableOf(document);
  for (const mask of masks.filter((m) => list.some((o) => writes(o, LAYER.mask(m.name))))) {
    const [empty] = emptyPicks(mask.of, from);
    if (empty) throw new UsageError(`${path}: mask ${mask.name}: the scene has no ${empty.kind} ${empty.name}`);
  }
  const asked = pictures(list);
  // The shot's own picture is rendered, whether any output is of it or not.
  if (asked[0]?.variant !== null) asked.unshift({ variant: null, outputs: [] });
  return asked.map(({ variant, outputs }) => {
    const kept = pictureRecipe(recipe, { list, masks }, variant, groups);
    const has = withMade(layersKept(kept.film, groups), masks);
    for (const output of outputs) {
      const { absent } = chosenOf(output, has);
      if (absent.length > 0)
        throw new UsageError(
          `${path}: output ${output.name} writes ${absent.join(', ')}, which a film of this scene cannot keep`,
        );
    }
    for (const { kind, name } of strangers(kept.scope, document))
      throw new UsageError(`${path}: output ${outputs[0].name}: the scene has no ${kind} ${name}`);
    return { recipe: parseRecipe(kept), variant, out: variant === null ? out : beside(out, outputs[0].name) };
  });
}

/** `lantern render`: renders a shot or GLB by a recipe to an OpenEXR file, and the variants of its outputs beside it. Returns the exit code. */
export async function render(argv: string[], assets: Assets): Promise<number> {
  const args = parseArguments(argv, OPTIONS);
  if (args.positional.length !== 1) throw new UsageError('render needs one shot or file');
  const out = one(args, 'out');
  if (out === undefined) throw new UsageError('render needs --out file.exr');
  if (extname(out) !== '.exr') throw new UsageError(`--out ${out}: must end in .exr`);
  const depth = one(args, 'depth') ?? 'auto';
  if (depth !== 'auto' && depth !== 'half' && depth !== 'float')
    throw new UsageError(`--depth ${depth}: must be auto, half or float`);
  const threads = wholeNumber(args, 'threads', 1, 256) ?? availableParallelism();
  const warnings: Warning[] = [];
  const started = performance.now();
  const name = args.positional[0];
  const packed = extname(name) === '.tar' ? await loadPackage(name) : null;
  const scene = await loadScene(name, args, warnings, packed?.scene);
  const camera = cameraNamed(scene, one(args, 'camera'));
  if (!camera)
    throw new UsageError(
      `--camera ${one(args, 'camera')}: the scene has ${scene.document.cameras.map((c) => c.name).join(', ')}`,
    );
  const asked = await loadRecipe(
    args,
    camera.size ?? { width: scene.document.width, height: scene.document.height },
    packed?.shot.recipe,
  ).catch((error) => {
    throw error instanceof RecipeError ? new UsageError(error.message) : error;
  });
  const wanted = asked.denoise.on ? asked.denoise.strength : undefined;
  const strength = wholeNumber(args, 'denoise', 0, 100) ?? wanted;
  // What denoising is steered by is recorded with the film.
  const groups = lightGroups(scene.document);
  const recipe = strength === undefined ? asked : parseRecipe(withSetting(asked, 'film.guides', true));
  const outputs = one(args, 'outputs');
  const plans =
    outputs === undefined
      ? [{ recipe, variant: null, out }]
      : picturesOf(recipe, outputs, await loadOutputs(outputs), scene.document, out);
  const named = namedGroups(scene.document);
  if (named.length > groups.length)
    warnings.push({
      code: 'many-groups',
      path: 'groups',
      message: `${named.length} light groups, a film keeps ${MOST_GROUPS}: ${named.filter((g) => !groups.includes(g)).join(', ')} are kept together as ${UNASSIGNED}`,
    });
  if (recipe.sampling.cameraMax % 2 === 1) {
    warnings.push({
      code: 'odd-samples',
      path: 'sampling.cameraMax',
      message: `${recipe.sampling.cameraMax} is rounded up to ${recipe.sampling.cameraMax + 1}: noise is measured from two halves`,
    });
  }
  const { first, last } = scene.document.frames;
  const frame = wholeNumber(args, 'frame', first, last) ?? first;
  const stray = recipe.film.pairs.find((p) => !groups.includes(p.group));
  if (stray) throw new UsageError(`film.pairs: the scene has no light group ${stray.group}, but ${groups.join(', ')}`);
  const abort = new AbortController();
  const launch: Launch = {
    ...{ scene, camera, frame, assets, threads, depth, strength },
    bands: wholeNumber(args, 'bands', 1, 1024),
    layers: args.options.get('layers'),
    signal: abort.signal,
  };
  for (const plan of plans) bandsOf(plan.recipe, scene.document, launch);
  const loadSeconds = (performance.now() - started) / 1000;
  const pool = new RenderPool(await compileWasm(assets.kernel), spawnNode(assets.thread), threads);
  const onSignal = () => abort.abort();
  process.once('SIGINT', onSignal);
  try {
    const made = [];
    for (const plan of plans) {
      const { stats, warnings: own } = await renderPicture(pool, plan, launch, loadSeconds);
      made.push(stats);
      warnings.push(...own);
      if (!stats.finished) break;
    }
    const [own, ...variants] = made;
    const json = one(args, 'json');
    const stats = { ...own, variants, warnings, version: assets.version };
    for (const w of warnings) process.stderr.write(`warning: ${w.path}: ${w.message}\n`);
    if (json === '-') process.stdout.write(`${JSON.stringify(stats, null, 2)}\n`);
    else if (json !== undefined) await writeFile(json, `${JSON.stringify(stats, null, 2)}\n`);
    return made.every((m) => m.finished) ? 0 : 3;
  } finally {
    process.removeListener('SIGINT', onSignal);
    pool.close();
  }
}
