import { writeFile } from 'node:fs/promises';
import { availableParallelism, freemem } from 'node:os';
import { extname } from 'node:path';
import { filmBytes, LAYER, layerNames, layersKept, makeSpec } from '@/core/film';
import { decodeHdr, exposureScale } from '@/core/image';
import { chosenOf, emptyPicks, maskableOf, type Outputs, recipeFor, withMade, writes } from '@/core/outputs';
import {
  canonicalJson,
  frameOf,
  isPreset,
  PRESETS,
  parseRecipe,
  type Recipe,
  RecipeError,
  withSetting,
} from '@/core/recipe';
import {
  lightGroups,
  MOST_GROUPS,
  namedGroups,
  picturedEnvironment,
  type Scene,
  type SceneDocument,
  UNASSIGNED,
} from '@/core/scene';
import { efficiency } from '@/core/stats';
import { sha256 } from '@/node/hash';
import { renderBanded } from '@/render/node/banded';
import { attributesOf, writeFilm } from '@/render/node/film-exr';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { cameraNamed } from '@/render/pool/scenes';
import { type Arguments, one, parseArguments, UsageError, wholeNumber } from './args';
import type { Assets } from './assets';
import { denoiseLayers } from './denoise';
import { writeWhole } from './exr-files';
import { progressTeller } from './progress';
import { file, loadBase, type Warning } from './scenes';
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

/** Part of the free memory that a film may take. */
const MOST_OF_MEMORY = 0.6;

async function loadScene(name: string, args: Arguments, warnings: Warning[]): Promise<Scene> {
  const scene = await loadBase(name, warnings);
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

/** The recipe that the arguments ask for; `natural` is the picture's size where they name none. */
async function loadRecipe(args: Arguments, natural: { width: number; height: number }): Promise<Recipe> {
  const name = one(args, 'recipe') ?? 'Check';
  let value: unknown;
  if (isPreset(name)) value = { ...PRESETS[name], size: { ...PRESETS[name].size, ...natural } };
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

/** The recipe with what outputs write kept too. Throws for what a film of the scene cannot keep, and masks of what is not there. */
function keptFor(recipe: Recipe, path: string, { list, masks }: Outputs, document: SceneDocument): Recipe {
  const groups = lightGroups(document);
  const kept = recipeFor(recipe, list, groups);
  const has = withMade(layersKept(kept.film, groups), masks);
  const from = maskableOf(document);
  for (const mask of masks.filter((m) => list.some((o) => writes(o, LAYER.mask(m.name))))) {
    const [empty] = emptyPicks(mask, from);
    if (empty) throw new UsageError(`${path}: mask ${mask.name}: the scene has no ${empty.kind} ${empty.name}`);
  }
  for (const output of list) {
    const { absent } = chosenOf(output, has);
    if (absent.length > 0)
      throw new UsageError(
        `${path}: output ${output.name} writes ${absent.join(', ')}, which a film of this scene cannot keep`,
      );
  }
  return parseRecipe(kept);
}

/** `lantern render`: renders a shot or GLB by a recipe to an OpenEXR file. Returns the exit code. */
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
  const scene = await loadScene(args.positional[0], args, warnings);
  const camera = cameraNamed(scene, one(args, 'camera'));
  if (!camera)
    throw new UsageError(
      `--camera ${one(args, 'camera')}: the scene has ${scene.document.cameras.map((c) => c.name).join(', ')}`,
    );
  const asked = await loadRecipe(
    args,
    camera.size ?? { width: scene.document.width, height: scene.document.height },
  ).catch((error) => {
    throw error instanceof RecipeError ? new UsageError(error.message) : error;
  });
  const wanted = asked.denoise.on ? asked.denoise.strength : undefined;
  const strength = wholeNumber(args, 'denoise', 0, 100) ?? wanted;
  // What denoising is steered by is recorded with the film.
  const groups = lightGroups(scene.document);
  const guided = strength === undefined ? asked : parseRecipe(withSetting(asked, 'film.guides', true));
  const outputs = one(args, 'outputs');
  const recipe = outputs === undefined ? guided : keptFor(guided, outputs, await loadOutputs(outputs), scene.document);
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
  const wantedBands = wholeNumber(args, 'bands', 1, 1024);
  const spec = makeSpec(recipe, scene.document);
  const need = filmBytes(spec);
  const room = freemem() * MOST_OF_MEMORY;
  const bands = wantedBands ?? Math.max(1, Math.ceil(need / room));
  if (bands > 1 && recipe.sampling.adapt === 'cheapest' && recipe.sampling.stopNoise > 0)
    throw new UsageError(
      wantedBands
        ? `--bands ${wantedBands}: sampling.adapt cheapest deals from the whole frame at once`
        : `sampling.adapt cheapest needs the whole frame at once: ${Math.ceil(need / 1e6)} MB, of which ${Math.floor(room / 1e6)} MB may be used; keep fewer planes or deal out evenly`,
    );
  const has = layerNames(spec);
  const unknown = args.options.get('layers')?.find((n) => !has.includes(n));
  if (unknown !== undefined) throw new UsageError(`--layers ${unknown}: the film has ${has.join(', ')}`);
  const loaded = performance.now();
  const pool = new RenderPool(await compileWasm(assets.kernel), spawnNode(assets.thread), threads);
  const abort = new AbortController();
  const onSignal = () => abort.abort();
  process.once('SIGINT', onSignal);
  try {
    const { buildMs } = await pool.load(scene, recipe, camera, frame);
    const wanted = args.options.get('layers');
    const rendered = await renderBanded(pool, scene, recipe, camera, {
      signal: abort.signal,
      frame,
      bands,
      // Denoising needs the halves, whatever is written.
      keep: strength === undefined ? wanted : undefined,
      onProgress: progressTeller(process.stderr, process.stderr.isTTY === true),
    });
    if (process.stderr.isTTY) process.stderr.write('\n');
    const { finished, traceMs, calibratedMs, noise } = rendered;
    if (rendered.invalid > 0) {
      warnings.push({
        code: 'invalid-samples',
        path: args.positional[0],
        message: `${rendered.invalid} contributions were no finite numbers and were left out`,
      });
    }
    if (rendered.unmasked) {
      warnings.push({
        code: 'unmasked-samples',
        path: args.positional[0],
        message: `${rendered.unmasked} samples are in no mask: their pixels hold more objects than it has room for`,
      });
    }
    const { exposure } = camera;
    const denoised =
      strength === undefined
        ? null
        : await denoiseLayers(rendered.layers, { assets, threads, scale: exposureScale(exposure), strength });
    const writing = performance.now();
    const attributes = attributesOf({
      scene,
      sceneHash: sha256(canonicalJson(scene.document), scene.geometry),
      camera,
      frame,
      recipe,
      recipeHash: sha256(canonicalJson(recipe)),
      noisePercent: noise?.rms ?? null,
      traceSeconds: traceMs / 1000,
      version: assets.version,
    });
    const made = { ...attributes, ...denoised?.attributes };
    const { bytes } = await writeFilm(denoised?.layers ?? rendered.layers, rendered.spec, made, {
      layers: wanted,
      depth,
      compression: 'zip',
      multiPart: true,
    });
    await writeWhole(out, bytes);
    const json = one(args, 'json');
    const stats = {
      film: out,
      finished,
      hash: rendered.hash,
      bands,
      seconds: {
        load: (loaded - started) / 1000,
        build: buildMs / 1000,
        trace: traceMs / 1000,
        calibrated: calibratedMs / 1000,
        write: (performance.now() - writing) / 1000,
      },
      samples: rendered.samples,
      sampleRange: rendered.sampleRange,
      rays: rendered.rays,
      noise,
      efficiency: noise ? efficiency(noise.rms, calibratedMs / 1000) : null,
      clampedLight: rendered.clampedLight,
      invalid: rendered.invalid,
      objects: rendered.objects,
      lost: rendered.lost,
      denoised: denoised?.figures ?? null,
      warnings,
      version: assets.version,
    };
    for (const w of warnings) process.stderr.write(`warning: ${w.path}: ${w.message}\n`);
    if (json === '-') process.stdout.write(`${JSON.stringify(stats, null, 2)}\n`);
    else if (json !== undefined) await writeFile(json, `${JSON.stringify(stats, null, 2)}\n`);
    return finished ? 0 : 3;
  } finally {
    process.removeListener('SIGINT', onSignal);
    pool.close();
  }
}
