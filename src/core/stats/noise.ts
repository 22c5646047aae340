import { type Display, displaySlope, luminance, scaleOf } from '../image';

/** Three planes of one colour picture. */
export type Rgb = readonly [Float32Array, Float32Array, Float32Array];

/** Noise of an area, in percent of display white. */
export interface Noise {
  rms: number;
  /** 95th percentile over 16×16 cells. */
  p95: number;
  worstCell: number;
}

const CELL = 16;
const windowBuffer = () => new Float32Array(25);

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

/** Luminance of the mean of two halves and of their difference. */
function meanAndDifference(a: Rgb, b: Rgb, count: number): { mean: Float32Array; diff: Float32Array } {
  const mean = new Float32Array(count);
  const diff = new Float32Array(count);
  for (let i = 0; i < count; i++) {
    const ya = luminance(a[0][i], a[1][i], a[2][i]);
    const yb = luminance(b[0][i], b[1][i], b[2][i]);
    mean[i] = (ya + yb) / 2;
    diff[i] = ya - yb;
  }
  return { mean, diff };
}

/** Steps of the slope table, over the square root of exposed luminance up to `LEVEL_TOP`. */
const LEVELS = 2048;
const LEVEL_TOP = 12;

/** Slope of the display transform at the middle of each step; within 0.6 % of the slope anywhere in it. */
function slopeSteps(exposure: Display): Float32Array {
  return Float32Array.from({ length: LEVELS }, (_, i) =>
    displaySlope((((i + 0.5) / LEVELS) * LEVEL_TOP) ** 2 / scaleOf(exposure), exposure),
  );
}

/**
 * Squared displayed noise of each pixel, w²·(A−B)²/4, w = slope of the display transform at the 5×5
 * median of the pixel means, so that one hot pixel cannot hide itself. Unsmoothed, 1 = display white.
 * The median is found on the slope table's steps by a histogram that slides along each row
 * [Huang, Yang & Tang 1979, A fast two-dimensional median filtering algorithm].
 */
export function noiseSquares(a: Rgb, b: Rgb, width: number, height: number, exposure: Display): Float32Array {
  const count = width * height;
  const { mean, diff } = meanAndDifference(a, b, count);
  const scale = scaleOf(exposure);
  const slopes = slopeSteps(exposure);
  const level = new Uint16Array(count);
  for (let i = 0; i < count; i++) {
    level[i] = Math.min(LEVELS - 1, (Math.sqrt(Math.max(0, mean[i] * scale)) * LEVELS) / LEVEL_TOP);
  }
  const histogram = new Uint8Array(LEVELS);
  for (let y = 0; y < height; y++) {
    const top = Math.max(0, y - 2);
    const bottom = Math.min(height, y + 3);
    histogram.fill(0);
    let inside = 0;
    let below = 0;
    let median = level[y * width];
    const column = (x: number, sign: 1 | -1) => {
      for (let j = top; j < bottom; j++) {
        const v = level[j * width + x];
        histogram[v] += sign;
        if (v < median) below += sign;
      }
      inside += sign * (bottom - top);
    };
    for (let x = 0; x < Math.min(2, width); x++) column(x, 1);
    for (let x = 0; x < width; x++) {
      if (x + 2 < width) column(x + 2, 1);
      if (x - 3 >= 0) column(x - 3, -1);
      const rank = inside >> 1;
      while (below > rank) below -= histogram[--median];
      while (below + histogram[median] <= rank) below += histogram[median++];
      const i = y * width + x;
      const d = diff[i] * slopes[median];
      diff[i] = (d * d) / 4;
    }
  }
  return diff;
}

/** Noise figures from squared displayed noise, over a rectangle (whole picture by default). */
export function noiseFigures(
  squares: Float32Array,
  width: number,
  height: number,
  area: { x: number; y: number; width: number; height: number } = { x: 0, y: 0, width, height },
): Noise {
  const cells: number[] = [];
  let sum = 0;
  let n = 0;
  for (let cy = area.y; cy < area.y + area.height; cy += CELL) {
    for (let cx = area.x; cx < area.x + area.width; cx += CELL) {
      let s = 0;
      let m = 0;
      for (let y = cy; y < Math.min(cy + CELL, area.y + area.height); y++) {
        for (let x = cx; x < Math.min(cx + CELL, area.x + area.width); x++) {
          s += squares[y * width + x];
          m++;
        }
      }
      sum += s;
      n += m;
      cells.push(Math.sqrt(s / m) * 100);
    }
  }
  cells.sort((p, q) => p - q);
  return {
    rms: n > 0 ? Math.sqrt(sum / n) * 100 : 0,
    p95: cells.length > 0 ? cells[Math.min(cells.length - 1, Math.floor(cells.length * 0.95))] : 0,
    worstCell: cells.length > 0 ? cells[cells.length - 1] : 0,
  };
}

/** Noise of a picture given as two halves (each the mean of its own samples). */
export function noiseOf(a: Rgb, b: Rgb, width: number, height: number, exposure: Display): Noise {
  return noiseFigures(noiseSquares(a, b, width, height, exposure), width, height);
}

/** Noise map in percent: squares smoothed by a 7×7 mean, then the root. */
export function noiseMap(squares: Float32Array, width: number, height: number): Float32Array {
  const rows = new Float32Array(width * height);
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    let sum = 0;
    for (let x = -3; x < width; x++) {
      if (x + 3 < width) sum += squares[y * width + x + 3];
      if (x - 4 >= 0) sum -= squares[y * width + x - 4];
      if (x >= 0) rows[y * width + x] = sum / (Math.min(width, x + 4) - Math.max(0, x - 3));
    }
  }
  for (let x = 0; x < width; x++) {
    let sum = 0;
    for (let y = -3; y < height; y++) {
      if (y + 3 < height) sum += rows[(y + 3) * width + x];
      if (y - 4 >= 0) sum -= rows[(y - 4) * width + x];
      if (y >= 0)
        out[y * width + x] = Math.sqrt(Math.max(0, sum) / (Math.min(height, y + 4) - Math.max(0, y - 3))) * 100;
    }
  }
  return out;
}

/**
 * Noise of one cell in percent, from the sums of its halves as they lie in a tile of a film: planes of
 * `stride`×`stride` values; red of half A is plane `a`, of half B plane `b`, green and blue follow. `n` samples so far, even.
 */
export function cellNoise(
  tile: Float32Array,
  stride: number,
  w: number,
  h: number,
  n: number,
  exposure: Display,
  a = 0,
  b = 3,
): number {
  const size = stride * stride;
  const scale = 2 / n;
  const mean = new Float32Array(size);
  const diff = new Float32Array(size);
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const i = y * stride + x;
      const at = (p: number) =>
        luminance(tile[p * size + i], tile[(p + 1) * size + i], tile[(p + 2) * size + i]) * scale;
      const ya = at(a);
      const yb = at(b);
      mean[i] = (ya + yb) / 2;
      diff[i] = ya - yb;
    }
  }
  const win = windowBuffer();
  let sum = 0;
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const d = diff[y * stride + x] * displaySlope(medianAround(mean, stride, 0, 0, w, h, x, y, win), exposure);
      sum += (d * d) / 4;
    }
  }
  return Math.sqrt(sum / (w * h)) * 100;
}

/**
 * A part's picture laid over the rest of a whole one in the place of its `own`, so that its noise is weighed at the whole
 * picture's brightness. Planes of linear red, green and blue.
 */
export function laidOver(part: Rgb, own: Rgb, whole: Rgb): Rgb {
  return part.map((p, c) => {
    const out = new Float32Array(p.length);
    for (let i = 0; i < p.length; i++) out[i] = whole[c][i] - own[c][i] + p[i];
    return out;
  }) as unknown as Rgb;
}
