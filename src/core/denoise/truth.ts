import type { FilmLayers } from '../film';
import { type Display, displayReader, luminance } from '../image';
import { TILE_SIZE } from '../kernel';
import { between, type Interval, mulberry, noiseSquares } from '../stats';
import type { Size } from './filter';
import { across, PATCH_FLOATS, type Patches, rgb, shown } from './patches';

/** How far a picture is from the truth, told by patches, in percent of display white. */
export interface TrueError {
  /** Root mean square of everything that is wrong. */
  error: Interval;
  /** The same of it that is not noise: what was changed. */
  changed: Interval;
  /** Of the plain picture. */
  plain: Interval;
}

/** Mean squares over a cell, as displayed. */
interface CellError {
  error: number;
  plain: number;
  left: number;
}

const TWINS = 400;
const percent = (square: number) => 100 * Math.sqrt(Math.max(0, square));

/** Pixels of a cell within a picture: its number there and in the patch. */
function* pixelsOfCell(cell: number, size: Size): Generator<[inPicture: number, inPatch: number]> {
  const n = across(size);
  const [x0, y0] = [(cell % n) * TILE_SIZE, Math.floor(cell / n) * TILE_SIZE];
  for (let j = 0; j < TILE_SIZE && y0 + j < size.height; j++)
    for (let i = 0; i < TILE_SIZE && x0 + i < size.width; i++)
      yield [(y0 + j) * size.width + x0 + i, j * TILE_SIZE + i];
}

/**
 * What is shown of the truth, told by a film's halves a and b: 2·f((a + b)/2) − (f(a) + f(b))/2, which has no bias by the
 * display's bend but in higher orders of the noise [Quenouille 1956].
 */
export const unbent = (f: (v: number) => number, a: number, b: number): number =>
  2 * f((a + b) / 2) - (f(a) + f(b)) / 2;

/**
 * The true error of a denoised picture and of the plain one, from patches that neither has seen: with T and U told of the
 * truth by two films, the mean of (f(D) − T)·(f(D) − U) is the squared error of f(D). Intervals by resampling patches within
 * strata. `pixels` are as kept; both films hold the beauty and its halves.
 */
export function trueError(
  patches: Patches,
  pixels: Float32Array,
  plain: FilmLayers,
  denoised: FilmLayers,
  display: Display,
): TrueError {
  const f = displayReader(display);
  const area = TILE_SIZE * TILE_SIZE;
  const [p, d] = [plain, denoised].map((film) => shown(rgb(film, 'beauty'), display));
  const left = noiseSquares(rgb(denoised, 'half_a'), rgb(denoised, 'half_b'), display);
  const cells = patches.chosen.map((k): CellError => {
    const patch = pixels.subarray(k * PATCH_FLOATS, (k + 1) * PATCH_FLOATS);
    const light = (half: number, i: number) =>
      luminance(patch[half * 3 * area + i], patch[(half * 3 + 1) * area + i], patch[(half * 3 + 2) * area + i]);
    const sums = { error: 0, plain: 0, left: 0 };
    let n = 0;
    for (const [at, i] of pixelsOfCell(patches.cells[k], plain)) {
      const [t, u] = [unbent(f, light(0, i), light(1, i)), unbent(f, light(2, i), light(3, i))];
      sums.error += (d[at] - t) * (d[at] - u);
      sums.plain += (p[at] - t) * (p[at] - u);
      sums.left += left[at];
      n++;
    }
    return { error: sums.error / n, plain: sums.plain / n, left: sums.left / n };
  });
  const strata = new Map<number, number[]>();
  patches.stratum.forEach((s, i) => {
    strata.set(s, [...(strata.get(s) ?? []), i]);
  });
  const told = (numbers: readonly number[][]) => {
    const mean = (key: keyof CellError) =>
      numbers.flat().reduce((sum, i) => sum + patches.weight[i] * cells[i][key], 0);
    const [error, noisy, left] = [mean('error'), mean('plain'), mean('left')];
    return { error: percent(error), changed: percent(error - left), plain: percent(noisy) };
  };
  const random = mulberry(1);
  const all = [...strata.values()];
  const values = told(all);
  const twins = Array.from({ length: TWINS }, () =>
    told(all.map((own) => own.map(() => own[Math.floor(random() * own.length)]))),
  );
  const interval = (key: keyof typeof values) =>
    between(
      values[key],
      twins.map((t) => t[key]),
    );
  return { error: interval('error'), changed: interval('changed'), plain: interval('plain') };
}
