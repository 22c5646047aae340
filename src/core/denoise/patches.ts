import type { FilmLayers } from '../film';
import { type Display, displayReader, luminance } from '../image';
import { TILE_SIZE } from '../kernel';
import { type Chosen, chooseCells, noiseSquares, type Rgb } from '../stats';
import { boxMeans } from './box';
import type { Size } from './filter';

/** Why a place is looked at. */
export const LOOKS = ['changed', 'edge', 'texture', 'glass', 'noise'] as const;
export type Look = (typeof LOOKS)[number];

/** A square of `LOOK_CELLS`² cells to be looked at: its top left cell and why. */
export interface LookedAt {
  why: Look;
  cell: number;
}

/** Cells of a film that were rendered anew, with other random numbers, to hold a picture against. */
export interface Patches {
  /** Camera samples a pixel, in two films of two halves. */
  samples: number;
  seconds: number;
  /** All cells rendered, in the order of their pixels. */
  cells: number[];
  /** For the estimate: numbers into `cells`, their strata (each certain one its own), the share of the picture each stands for. */
  chosen: number[];
  stratum: number[];
  weight: number[];
  looks: LookedAt[];
}

/** Pixels of a cell, three channels of either half of one film, then of the other: how `Patches` are kept. */
export const PATCH_FLOATS = TILE_SIZE * TILE_SIZE * 12;
export const LOOK_CELLS = 2;
const MOST_LOOKS = 4;

/** Cells chosen for the estimate: a share of all, within limits. */
const SHARE = 0.05;
const [LEAST, MOST] = [12, 48];
/** Pixels from its middle over which what was taken away is averaged, to tell what changed from noise. */
const REACH = 2;
/** Variances of a mean that noise alone may make of it. */
const BY_CHANCE = 2;

export const rgb = ({ layers }: FilmLayers, name: string) => layers.get(name)!.planes as unknown as Rgb;
/** Luminance as displayed. */
export const shown = (planes: Rgb, display: Display) => {
  const f = displayReader(display);
  return planes[0].map((r, i) => f(luminance(r, planes[1][i], planes[2][i])));
};

/** Luminance, linear. */
const linear = (planes: Rgb) => planes[0].map((r, i) => luminance(r, planes[1][i], planes[2][i]));

/**
 * What was taken away and noise does not explain, as displayed (1 = display white): the mean over 5×5 pixels of what the
 * plain picture is above the denoised one, less what the halves say that noise makes of such a mean, by the display's slope.
 * The mean is of linear light, since noise is even there alone. Detail finer than that, and detail that noise hides, is not
 * in it. `plain` holds the beauty and its halves.
 */
export function changedMap(plain: FilmLayers, denoised: FilmLayers, display: Display): Float32Array {
  const size: Size = plain;
  const [p, d] = [linear(rgb(plain, 'beauty')), linear(rgb(denoised, 'beauty'))];
  const [a, b] = [linear(rgb(plain, 'half_a')), linear(rgb(plain, 'half_b'))];
  const mean = (plane: Float32Array) => boxMeans(plane, size, REACH);
  const taken = mean(p.map((v, i) => v - d[i]));
  const noise = mean(a.map((v, i) => (v - b[i]) ** 2 / 4));
  const pixels = (2 * REACH + 1) ** 2;
  const squares = mean(taken.map((v, i) => v * v - (BY_CHANCE * noise[i]) / pixels));
  const f = displayReader(display);
  return mean(d).map((level, i) => {
    const change = Math.sqrt(Math.max(0, squares[i]));
    return (f(level + change) - f(Math.max(0, level - change))) / 2;
  });
}

/** Cells in a row of a picture. */
export const across = ({ width }: Size) => Math.ceil(width / TILE_SIZE);
const cellCount = ({ width, height }: Size) => across({ width, height }) * Math.ceil(height / TILE_SIZE);

/** Mean of a plane over each cell. */
function cellMeans(plane: Float32Array, size: Size): number[] {
  const n = across(size);
  const sum = new Array<number>(cellCount(size)).fill(0);
  const count = new Array<number>(sum.length).fill(0);
  for (let i = 0; i < plane.length; i++) {
    const t = Math.floor(Math.floor(i / size.width) / TILE_SIZE) * n + Math.floor((i % size.width) / TILE_SIZE);
    sum[t] += plane[i];
    count[t]++;
  }
  return sum.map((s, t) => s / count[t]);
}

/** Squared differences of a plane to its neighbours at the right and below. */
function steps(plane: Float32Array, { width, height }: Size): Float32Array {
  return plane.map((v, i) => {
    const right = i % width < width - 1 ? plane[i + 1] - v : 0;
    const below = i < width * (height - 1) ? plane[i + width] - v : 0;
    return right * right + below * below;
  });
}

const summed = (planes: readonly Float32Array[]) => planes[0].map((_, i) => planes.reduce((s, p) => s + p[i], 0));

/** Where it is worth looking, by what stands out there: each reason's worth a cell; null where the film cannot tell. */
function worths(plain: FilmLayers, denoised: FilmLayers, display: Display): Record<Look, number[] | null> {
  const cells = (plane: Float32Array) => cellMeans(plane, plain);
  const albedo = plain.layers.get('albedo')?.planes;
  const guides = plain.layers.get('guides_a');
  const behind = guides && albedo ? ['R', 'G', 'B'].map((c) => guides.planes[guides.channels.indexOf(c)]) : null;
  return {
    edge: cells(steps(shown(rgb(denoised, 'beauty'), display), plain)),
    texture: albedo ? cells(summed(albedo.map((p) => steps(p as Float32Array, plain)))) : null,
    changed: cells(changedMap(plain, denoised, display).map((v) => v * v)),
    // What is seen behind glass is not what was hit first.
    glass: behind && cells(summed(behind.map((p, c) => p.map((v, i) => Math.abs(v - albedo![c][i]))))),
    noise: cells(noiseSquares(rgb(plain, 'half_a'), rgb(plain, 'half_b'), display)),
  };
}

/** Squares of whole cells to be looked at, one a reason and four at most, apart from each other. */
function looksOf(by: Record<Look, number[] | null>, size: Size): LookedAt[] {
  const n = across(size);
  const [columns, rows] = [Math.floor(size.width / TILE_SIZE), Math.floor(size.height / TILE_SIZE)];
  const out: LookedAt[] = [];
  const apart = (cell: number) =>
    out.every(
      ({ cell: o }) =>
        Math.abs((cell % n) - (o % n)) >= LOOK_CELLS ||
        Math.abs(Math.floor(cell / n) - Math.floor(o / n)) >= LOOK_CELLS,
    );
  for (const why of LOOKS) {
    const worth = by[why];
    if (!worth || out.length === MOST_LOOKS) continue;
    let best: { cell: number; worth: number } | null = null;
    for (let y = 0; y + LOOK_CELLS <= rows; y++)
      for (let x = 0; x + LOOK_CELLS <= columns; x++) {
        const cell = y * n + x;
        const own = cellsOfLook(cell, size).reduce((s, c) => s + worth[c], 0);
        if (own > (best?.worth ?? 0) && apart(cell)) best = { cell, worth: own };
      }
    if (best) out.push({ why, cell: best.cell });
  }
  return out;
}

/** The cells of a square that is looked at, row by row. */
export function cellsOfLook(cell: number, size: Size): number[] {
  const n = across(size);
  return Array.from({ length: LOOK_CELLS ** 2 }, (_, k) => cell + Math.floor(k / LOOK_CELLS) * n + (k % LOOK_CELLS));
}

/**
 * Cells to be rendered anew: those to be looked at, and more to stand for the picture, by strata of what seems to have
 * changed and of noise. `plain` holds beauty, halves, and albedo and guides where they are kept.
 */
export function choosePatches(
  plain: FilmLayers,
  denoised: FilmLayers,
  display: Display,
): Omit<Patches, 'samples' | 'seconds'> {
  const by = worths(plain, denoised, display);
  const looks = looksOf(by, plain);
  const sure = looks.flatMap((l) => cellsOfLook(l.cell, plain));
  const count = cellCount(plain);
  const isSure = new Set(sure);
  const rest = Array.from({ length: count }, (_, i) => i).filter((c) => !isSure.has(c));
  const worth = rest.map((c) => by.changed![c] + by.noise![c]);
  const wanted = Math.max(LEAST, Math.min(MOST, Math.round(SHARE * count)));
  const drawn: Chosen = chooseCells(worth, Math.min(wanted, rest.length));
  const cells = [...sure, ...drawn.cells.map((i) => rest[i])];
  const strata = Math.max(0, ...drawn.stratum) + 1;
  return {
    cells,
    chosen: cells.map((_, i) => i),
    stratum: [...sure.map((_, i) => strata + i), ...drawn.stratum],
    weight: [...sure.map(() => 1 / count), ...drawn.weight.map((w) => (w * rest.length) / count)],
    looks,
  };
}
