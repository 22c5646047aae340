import type { Depth } from '@/core/exr';
import { filmBytes, layerNames, makeSpec } from '@/core/film';
import { exposureScale } from '@/core/image';
import type { Variant } from '@/core/outputs';
import { canonicalJson, type Recipe } from '@/core/recipe';
import { bandsFor, dealsOut } from '@/core/runs';
import type { Camera, Scene, SceneDocument } from '@/core/scene';
import { efficiency } from '@/core/stats';
import { sha256 } from '@/node/hash';
import { renderBanded } from '@/render/node/banded';
import { attributesOf, writeFilm } from '@/render/node/film-exr';
import { roomForFilms } from '@/render/node/rendered-frame';
import type { RenderPool } from '@/render/pool/pool';
import { UsageError } from './args';
import type { Assets } from './assets';
import { denoiseLayers } from './denoise';
import { writeWhole } from './exr-files';
import { progressTeller } from './progress';
import type { Warning } from './scenes';

/** A picture to be rendered: the shot's own or a variant, by its recipe, into a file. */
export interface Picture {
  recipe: Recipe;
  variant: Variant | null;
  out: string;
}

/** How pictures of one launch are rendered and written. */
export interface Launch {
  scene: Scene;
  camera: Camera;
  frame: number;
  assets: Assets;
  threads: number;
  bands: number | undefined;
  layers: string[] | undefined;
  depth: Depth;
  /** Percent of denoising; undefined leaves films as they are. */
  strength: number | undefined;
  signal: AbortSignal;
}

/**
 * In how many bands a recipe's film is rendered, where so many of them are held at once. Throws where it cannot be, or lacks layers that are
 * asked for.
 */
export function bandsOf(
  recipe: Recipe,
  document: SceneDocument,
  { bands: asked, layers }: Partial<Pick<Launch, 'bands' | 'layers'>>,
  films = 1,
) {
  const spec = makeSpec(recipe, document);
  if (asked && asked > 1 && dealsOut(recipe))
    throw new UsageError(`--bands ${asked}: sampling.adapt cheapest deals from the whole frame at once`);
  let bands = asked ?? 1;
  try {
    bands = asked ?? bandsFor(recipe, filmBytes(spec), roomForFilms() / films);
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
  const has = layerNames(spec);
  const unknown = layers?.find((n) => !has.includes(n));
  if (unknown !== undefined) throw new UsageError(`--layers ${unknown}: the film has ${has.join(', ')}`);
  return bands;
}

/** What is worth a warning in a film that was rendered. */
function warningsOf(
  path: string,
  { invalid, unmasked, samples }: { invalid: number; unmasked?: number; samples: number },
): Warning[] {
  const warnings: Warning[] = [];
  if (invalid > 0)
    warnings.push({
      code: 'invalid-samples',
      path,
      message: `${invalid} contributions were no finite numbers and were left out`,
    });
  if (unmasked)
    warnings.push({
      code: 'unmasked-samples',
      path,
      message: `${((unmasked / samples) * 100).toPrecision(2)} % of what masks should hold is in none: ${unmasked} samples, whose pixels hold more objects than there is room for`,
    });
  return warnings;
}

/** Renders one picture and writes its film; `loadSeconds` were spent before. Tells what was measured. */
export async function renderPicture(
  pool: RenderPool,
  { recipe, variant, out }: Picture,
  launch: Launch,
  loadSeconds: number,
) {
  const { scene, camera, frame, assets, threads, layers, depth, strength, signal } = launch;
  const bands = bandsOf(recipe, scene.document, launch);
  const { buildMs } = await pool.load(scene, recipe, camera, frame);
  const rendered = await renderBanded(pool, scene, recipe, camera, {
    signal,
    frame,
    bands,
    // Denoising needs the halves, whatever is written.
    keep: strength === undefined ? layers : undefined,
    onProgress: progressTeller(process.stderr, process.stderr.isTTY === true),
  });
  if (process.stderr.isTTY) process.stderr.write('\n');
  const { finished, traceMs, calibratedMs, noise } = rendered;
  const denoised =
    strength === undefined
      ? null
      : await denoiseLayers(rendered.layers, { assets, threads, scale: exposureScale(camera.exposure), strength });
  const writing = performance.now();
  const attributes = attributesOf({
    scene,
    sceneHash: sha256(canonicalJson(scene.document), scene.geometry),
    camera,
    frame,
    recipe,
    recipeHash: sha256(canonicalJson(recipe)),
    variant,
    noisePercent: noise?.rms ?? null,
    traceSeconds: traceMs / 1000,
    version: assets.version,
  });
  const { bytes } = await writeFilm(
    denoised?.layers ?? rendered.layers,
    rendered.spec,
    { ...attributes, ...denoised?.attributes },
    { layers, depth, compression: 'zip', multiPart: true },
  );
  await writeWhole(out, bytes);
  const stats = {
    film: out,
    finished,
    hash: rendered.hash,
    bands,
    seconds: {
      load: loadSeconds,
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
  };
  return { stats, warnings: warningsOf(out, rendered) };
}
