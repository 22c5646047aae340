import { luminance } from '../image';
import { boxCount, boxSums } from './box';
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

const luminanceAt = (p: readonly Plane[], i: number) => luminance(p[0][i], p[1][i], p[2][i]);

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
  for (let i = 0; i < own.length; i++) {
    own[i] = luminanceAt(half, i);
    both[i] = own[i] + luminanceAt(other, i);
    all += own[i];
  }
  const about = boxSums(both, size, REACH);
  let moved = 0;
  let pixels = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const [x0, x1] = [Math.max(0, x - REACH), Math.min(width - 1, x + REACH)];
      const [y0, y1] = [Math.max(0, y - REACH), Math.min(height - 1, y + REACH)];
      const count = boxCount(x, y, size, REACH);
      const rest = (about[i] - both[i]) / Math.max(1, 2 * count - 2);
      const most = HOT * Math.max(rest, both[i] - own[i]) + LEAST;
      if (own[i] <= most) continue;
      const share = 1 - most / own[i];
      pixels++;
      moved += own[i] - most;
      // By what the other half has there: a glint's light is not to lie on the dark beside it.
      const weightOf = (j: number) => Math.min(both[j] - own[j], most) + FLOOR * rest + LEAST;
      let whole = 0;
      for (let v = y0; v <= y1; v++) for (let u = x0; u <= x1; u++) whole += weightOf(v * width + u);
      half.forEach((plane, c) => {
        const excess = own[i] > 0 ? steer[c][i] * share : 0;
        steer[c][i] -= excess;
        plane[i] -= excess;
        for (let v = y0; v <= y1; v++)
          for (let u = x0; u <= x1; u++) plane[v * width + u] += (excess * weightOf(v * width + u)) / whole;
      });
    }
  return { pixels, share: all > 0 ? moved / all : 0 };
}
