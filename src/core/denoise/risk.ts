import { type Display, displayReader, luminance } from '../image';
import type { Plane } from './filter';

/** What filtering changed that was not noise, in percent of display white. */
export interface Risk {
  rms: number;
  worstCell: number;
}

const CELL = 16;
/** Step over which the display's slope is taken, as a share of the light. */
const STEP = 0.02;
const DARK = 1e-6;

const luminances = (p: readonly Plane[]) => Float32Array.from(p[0], (_, i) => luminance(p[0][i], p[1][i], p[2][i]));

/**
 * Squared change by filtering that was not noise, of each pixel, 1 = display white: what filtered halves D miss of the other
 * half, less that half's own noise and theirs, ((D(A) − B)² + (D(B) − A)² − (A − B)² − (D(A) − D(B))²)/2, weighed by
 * the display's slope at the result. Without bias, so that single pixels may be below 0: to be averaged.
 */
export function riskSquares(
  plain: { a: readonly Plane[]; b: readonly Plane[] },
  filtered: { a: readonly Plane[]; b: readonly Plane[] },
  exposure: Display,
): Float32Array {
  const [a, b] = [luminances(plain.a), luminances(plain.b)];
  const [fa, fb] = [luminances(filtered.a), luminances(filtered.b)];
  const shown = displayReader(exposure);
  return a.map((_, i) => {
    const y = Math.max(DARK, (fa[i] + fb[i]) / 2);
    const slope = (shown(y * (1 + STEP)) - shown(y)) / (y * STEP);
    const missed = (fa[i] - b[i]) ** 2 + (fb[i] - a[i]) ** 2 - (a[i] - b[i]) ** 2 - (fa[i] - fb[i]) ** 2;
    return (slope * slope * missed) / 2;
  });
}

/** Risk of a picture from its squares: over all, and in the 16×16 cell where it is most. */
export function riskOf(squares: Float32Array, width: number, height: number): Risk {
  let [whole, worst] = [0, 0];
  for (let y0 = 0; y0 < height; y0 += CELL)
    for (let x0 = 0; x0 < width; x0 += CELL) {
      let [sum, count] = [0, 0];
      for (let y = y0; y < Math.min(height, y0 + CELL); y++)
        for (let x = x0; x < Math.min(width, x0 + CELL); x++) {
          sum += squares[y * width + x];
          count++;
        }
      whole += sum;
      worst = Math.max(worst, sum / count);
    }
  return { rms: Math.sqrt(Math.max(0, whole) / (width * height)) * 100, worstCell: Math.sqrt(worst) * 100 };
}
