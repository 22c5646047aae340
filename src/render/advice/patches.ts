import { choosePatches, PATCH_FLOATS, type Patches } from '@/core/denoise';
import { type Film, type FilmLayers, halvesOf } from '@/core/film';
import type { Display } from '@/core/image';
import { TILE_SIZE } from '@/core/kernel';
import { BEAUTY_ALONE, type Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import type { RenderPool } from '../pool/pool';
import { countsOf, withCounts } from './pilots';

/**
 * Share of a film's samples that patches take, so many times as many a pixel at most; and least samples a pixel, since fewer
 * tell little of what the display shows of the truth.
 */
const SHARE = 0.15;
const MOST_TIMES = 16;
const LEAST_SAMPLES = 64;
/** What turns a seed into others, for two films. */
const OTHERS = [0x9e3779b9, 0x7f4a7c15];

/** Two recipes of the picture alone, of even samples and random numbers that a film of this one has not seen. */
export function unseen(recipe: Recipe, samples: number): Recipe[] {
  const even = withCounts({ ...recipe, film: { ...recipe.film, ...BEAUTY_ALONE } }, samples, countsOf(recipe));
  const { sampling, denoise } = even;
  return OTHERS.map((other) => ({
    ...even,
    denoise: { ...denoise, on: false },
    sampling: { ...sampling, seed: (sampling.seed ^ other) >>> 0 },
  }));
}

/** Copies both halves of cells, each to its place and so many floats into it. */
function copyCells(film: Film, cells: readonly number[], to: Float32Array, offset: number): void {
  const { a, b } = halvesOf(film);
  const { width } = film.spec.region;
  cells.forEach((cell, k) => {
    const { x, y, w, h } = film.place(cell);
    [...a, ...b].forEach((plane, c) => {
      const at = k * PATCH_FLOATS + offset + c * TILE_SIZE * TILE_SIZE;
      for (let j = 0; j < h; j++) {
        const from = (y + j) * width + x;
        to.set(plane.subarray(from, from + w), at + j * TILE_SIZE);
      }
    });
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
  const each = 2 * Math.round(Math.max(LEAST_SAMPLES, films.samples * times) / 4);
  const pixels = new Float32Array(chosen.cells.length * PATCH_FLOATS);
  const recipes = unseen(recipe, each);
  for (const [k, own] of recipes.entries()) {
    const { film, finished } = await pool.render(scene, own, camera, {
      cells: chosen.cells,
      frame,
      signal,
      onProgress: (p) => onProgress?.((k + p.fraction) / recipes.length),
    });
    if (!finished) return null;
    copyCells(film, chosen.cells, pixels, k * (PATCH_FLOATS / 2));
  }
  const samples = each * recipes.length;
  return { patches: { ...chosen, samples, seconds: (performance.now() - started) / 1000 }, pixels };
}
