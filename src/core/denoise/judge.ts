import { boxSums } from './box';
import { SIDE } from './layout';

/** A filtered square in three planes. */
export type Square = readonly Float32Array[];

const PIXELS = SIDE * SIDE;
/** Pixels that errors are averaged over, and that choices are smoothed over, each from its middle. */
const ERROR_REACH = 6;
const CHOICE_REACH = 2;
/** Pixels at the edge of a square whose choice rests on less than it should. */
export const JUDGE_MARGIN = ERROR_REACH + CHOICE_REACH;
/** Standard errors by which another way of filtering must be better than the first. */
const SURE = 1.5;
/** Square of the light below which errors count as they are, and above which as shares of it. */
const DARK = 1e-3;

/** Sums over the (2·reach + 1)² pixels about each of a square. */
export const squareSums = (plane: Float32Array, reach: number) => boxSums(plane, { width: SIDE, height: SIDE }, reach);

/** Adds the squared difference of two squares in every pixel. */
function addDifference(a: Square, b: Square, out: Float32Array): void {
  for (let c = 0; c < 3; c++) {
    const [p, q] = [a[c], b[c]];
    for (let i = 0; i < PIXELS; i++) {
      const d = p[i] - q[i];
      out[i] += d * d;
    }
  }
}

/**
 * Shares of several ways of filtering in every pixel of a square; they sum to 1 within the picture. Ways are judged by what
 * the other half says of them, (D(A) − B)² − Var(B) and swapped, which has no bias [Rousselle et al. 2012, eq. 13]; the
 * first holds unless another is better by more than chance. `a` and `b` are the halves unfiltered, `ways` each way's
 * halves filtered; `mask` is 1 within the picture.
 */
export function judge(
  a: Square,
  b: Square,
  ways: readonly { a: Square; b: Square }[],
  mask: Float32Array,
): Float32Array[] {
  const scale = new Float32Array(PIXELS);
  for (let c = 0; c < 3; c++) {
    const [p, q] = [a[c], b[c]];
    for (let i = 0; i < PIXELS; i++) scale[i] += ((p[i] + q[i]) / 2) ** 2;
  }
  const light = squareSums(scale, CHOICE_REACH);
  const counts = squareSums(mask, ERROR_REACH);
  const near = squareSums(mask, CHOICE_REACH);
  const errorOf = (way: { a: Square; b: Square }) => {
    const out = new Float32Array(PIXELS);
    addDifference(way.a, b, out);
    addDifference(way.b, a, out);
    for (let i = 0; i < PIXELS; i++) out[i] = mask[i] !== 0 ? out[i] / (light[i] / near[i] + DARK) : 0;
    return out;
  };
  const first = errorOf(ways[0]);
  const best = new Float32Array(PIXELS);
  const chosen = new Uint8Array(PIXELS);
  for (let w = 1; w < ways.length; w++) {
    const error = errorOf(ways[w]);
    const [better, squared] = [new Float32Array(PIXELS), new Float32Array(PIXELS)];
    for (let i = 0; i < PIXELS; i++) {
      better[i] = first[i] - error[i];
      squared[i] = better[i] * better[i];
    }
    const [sums, squares] = [squareSums(better, ERROR_REACH), squareSums(squared, ERROR_REACH)];
    for (let i = 0; i < PIXELS; i++) {
      const n = counts[i];
      if (n === 0) continue;
      const mean = sums[i] / n;
      const gain = mean - SURE * Math.sqrt(Math.max(0, squares[i] / n - mean * mean) / n);
      if (gain > best[i]) {
        best[i] = gain;
        chosen[i] = w;
      }
    }
  }
  return ways.map((_, w) => {
    const taken = new Float32Array(PIXELS);
    for (let i = 0; i < PIXELS; i++) taken[i] = chosen[i] === w ? mask[i] : 0;
    const share = squareSums(taken, CHOICE_REACH);
    for (let i = 0; i < PIXELS; i++) share[i] = near[i] > 0 ? share[i] / near[i] : 0;
    return share;
  });
}
