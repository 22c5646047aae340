import { luminance } from '../image';
import { boxSums } from './box';
import type { Plane, Size } from './filter';

/** A half pixel is hot above so many times what its neighbours and the other half have. */
const HOT = 6;
/** Pixels that its light is spread over, from its middle. */
const REACH = 3;
/** Light in units of display white below which nothing is hot. */
const LEAST = 1e-4;
/** What a pixel counts beside its own light when light is spread over it, in means of those about it. */
const FLOOR = 2;

/** What was found hot: pixels, and the share of all light that was moved. */
export interface HotLight {
  pixels: number;
  share: number;
}

/**
 * Spreads the excess of hot pixels of a half, in place, over the (2·REACH + 1)² pixels about them, by how light those are: those far above the mean
 * of their neighbours in both halves and above themselves in the other. No light is lost. `steer`, a copy of the half, loses
 * the excess and gets none of it back: what was spread must not look like a thing of the picture.
 */
export function coolHotPixels(
  half: readonly Plane[],
  other: readonly Plane[],
  size: Size,
  steer: readonly Plane[],
): HotLight {
  const { width, height } = size;
  const own = new Float32Array(width * height);
  const both = new Float32Array(width * height);
  let all = 0;
  const [p, q, r] = half;
  const [u, v, w] = other;
  for (let i = 0; i < own.length; i++) {
    own[i] = luminance(p[i], q[i], r[i]);
    both[i] = own[i] + luminance(u[i], v[i], w[i]);
    all += own[i];
  }
  const about = boxSums(both, size, REACH);
  const weights = new Float64Array((2 * REACH + 1) ** 2);
  let moved = 0;
  let pixels = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const [x0, x1] = [Math.max(0, x - REACH), Math.min(width - 1, x + REACH)];
      const [y0, y1] = [Math.max(0, y - REACH), Math.min(height - 1, y + REACH)];
      const rest = (about[i] - both[i]) / Math.max(1, 2 * (x1 - x0 + 1) * (y1 - y0 + 1) - 2);
      const most = HOT * Math.max(rest, both[i] - own[i]) + LEAST;
      if (own[i] <= most) continue;
      const share = 1 - most / own[i];
      pixels++;
      moved += own[i] - most;
      // By what the other half has there: a glint's light is not to lie on the dark beside it.
      let whole = 0;
      let n = 0;
      for (let v = y0; v <= y1; v++)
        for (let j = v * width + x0; j <= v * width + x1; j++) {
          const weight = Math.min(both[j] - own[j], most) + FLOOR * rest + LEAST;
          weights[n++] = weight;
          whole += weight;
        }
      for (let c = 0; c < 3; c++) {
        const plane = half[c];
        const excess = own[i] > 0 ? steer[c][i] * share : 0;
        steer[c][i] -= excess;
        plane[i] -= excess;
        n = 0;
        for (let v = y0; v <= y1; v++)
          for (let j = v * width + x0; j <= v * width + x1; j++) plane[j] += (excess * weights[n++]) / whole;
      }
    }
  return { pixels, share: all > 0 ? moved / all : 0 };
}
