import { type Display, displaySlope } from '../image';
import { type CellHalves, eachPixel } from './noise';

/** Median of the values of `y` within two pixels of (px, py), the window cut at the bounds. */
function medianAround(
  y: Float32Array,
  stride: number,
  width: number,
  height: number,
  px: number,
  py: number,
  w: Float32Array,
): number {
  let n = 0;
  const fromX = Math.max(0, px - 2);
  const toX = Math.min(width, px + 3);
  const toY = Math.min(height, py + 3);
  for (let j = Math.max(0, py - 2); j < toY; j++) {
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
export function cellGrain(cell: CellHalves, exposure: Display): number {
  const { stride, w, h } = cell;
  const mean = new Float32Array(stride * stride);
  const diff = new Float32Array(stride * stride);
  eachPixel(cell, (i, ya, yb) => {
    mean[i] = (ya + yb) / 2;
    diff[i] = ya - yb;
  });
  const window = new Float32Array(25);
  let sum = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const d = diff[y * stride + x] * displaySlope(medianAround(mean, stride, w, h, x, y, window), exposure);
      sum += (d * d) / 4;
    }
  return sum / (w * h);
}
