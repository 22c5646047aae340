import { type Display, displaySlope, luminance } from '../image';
import type { CellHalves } from './noise';

/** Median of the values of `y` within two pixels of (px, py), the window cut at the bounds. */
function medianAround(
  y: Float32Array,
  stride: number,
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  px: number,
  py: number,
  w: Float32Array,
): number {
  let n = 0;
  const fromX = Math.max(x0, px - 2);
  const toX = Math.min(x1, px + 3);
  const toY = Math.min(y1, py + 3);
  for (let j = Math.max(y0, py - 2); j < toY; j++) {
    for (let i = fromX; i < toX; i++) {
      const v = y[j * stride + i];
      let k = n++;
      while (k > 0 && w[k - 1] > v) {
        w[k] = w[k - 1];
        k--;
      }
      w[k] = v;
    }
  }
  return w[n >> 1];
}

/**
 * Squared grain of a cell: the mean over its pixels of w²·(A − B)²/4, w the slope of the display at the 5×5 median of the pixels'
 * luminances, 1 = display white. Unlike noise as it is seen it has no bound: a rare bright path counts by all its light.
 * With few samples most pixels have not met such paths yet, and what is seen says little of them; for comparing cures.
 */
export function cellGrain({ tile, stride, w, h, n, a = 0, b = 3 }: CellHalves, exposure: Display): number {
  const size = stride * stride;
  const scale = 2 / n;
  const mean = new Float32Array(size);
  const diff = new Float32Array(size);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * stride + x;
      const at = (p: number) =>
        luminance(tile[p * size + i], tile[(p + 1) * size + i], tile[(p + 2) * size + i]) * scale;
      const [ya, yb] = [at(a), at(b)];
      mean[i] = (ya + yb) / 2;
      diff[i] = ya - yb;
    }
  const window = new Float32Array(25);
  let sum = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const d = diff[y * stride + x] * displaySlope(medianAround(mean, stride, 0, 0, w, h, x, y, window), exposure);
      sum += (d * d) / 4;
    }
  return sum / (w * h);
}
