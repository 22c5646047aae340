import { choosePatches, PATCH_FLOATS, type Patches } from '@/core/denoise';
import { type FilmLayers, halvesOf } from '@/core/film';
import type { Display } from '@/core/image';
import { TILE_SIZE } from '@/core/kernel';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import type { RenderPool } from '../pool/pool';

/** Share of a film's samples that patches take, where they come out between as many a pixel as the film has and so many times more. */
const SHARE = 0.15;
const MOST_TIMES = 16;
/** Another seed than the film's. */
const OTHER = 0x9e3779b9;

/** Even samples with random numbers that the film has not seen, and no parts. */
function recipeOf(recipe: Recipe, samples: number): Recipe {
  const { sampling, film } = recipe;
  return parseRecipe({
    ...recipe,
    sampling: {
      ...sampling,
      seed: (sampling.seed ^ OTHER) >>> 0,
      cameraMin: samples,
      cameraMax: samples,
      adapt: 'even',
      stopNoise: 0,
    },
    film: {
      ...film,
      groups: false,
      classes: false,
      pairs: [],
      ledger: 'off',
      lostLight: false,
      guides: false,
      features: [],
    },
  });
}

export interface PatchesOptions {
  frame?: number;
  signal?: AbortSignal;
  onProgress?: (fraction: number) => void;
}

/**
 * Renders patches that a film and what denoising made of it can be held against: `samples` is what the film has of a pixel on
 * average. Null when it was stopped. Pixels: `PATCH_FLOATS` a cell, linear.
 */
export async function renderPatches(
  pool: RenderPool,
  scene: Scene,
  camera: Camera,
  recipe: Recipe,
  films: { plain: FilmLayers; denoised: FilmLayers; display: Display; samples: number },
  { frame, signal, onProgress }: PatchesOptions = {},
): Promise<{ patches: Patches; pixels: Float32Array<ArrayBuffer> } | null> {
  const started = performance.now();
  const { plain, denoised, display } = films;
  const chosen = choosePatches(plain, denoised, display);
  const all = Math.ceil(plain.width / TILE_SIZE) * Math.ceil(plain.height / TILE_SIZE);
  const times = Math.max(1, Math.min(MOST_TIMES, (SHARE * all) / chosen.cells.length));
  const samples = 2 * Math.max(1, Math.round((films.samples * times) / 2));
  const { film, finished } = await pool.render(scene, recipeOf(recipe, samples), camera, {
    cells: chosen.cells,
    frame,
    signal,
    onProgress: (p) => onProgress?.(p.fraction),
  });
  if (!finished) return null;
  const { a, b } = halvesOf(film);
  const pixels = new Float32Array(chosen.cells.length * PATCH_FLOATS);
  chosen.cells.forEach((cell, k) => {
    const { x, y, w, h } = film.place(cell);
    [...a, ...b].forEach((plane, c) => {
      const to = k * PATCH_FLOATS + c * TILE_SIZE * TILE_SIZE;
      for (let j = 0; j < h; j++) {
        const from = (y + j) * plain.width + x;
        pixels.set(plane.subarray(from, from + w), to + j * TILE_SIZE);
      }
    });
  });
  return { patches: { ...chosen, samples, seconds: (performance.now() - started) / 1000 }, pixels };
}
