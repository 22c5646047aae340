import { type Display, displayReader, luminance, scaleOf } from '../image';

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

/** A half this many times as bright as the other is hot beside it. */
const HOT_RATIO = 4;

/** Whether a pixel is beyond white in one half of its samples and ordinary in the other: a rare bright path was met once. */
const isHot = (more: number, less: number, white: number) => more > white && less <= white && more >= HOT_RATIO * less;

/**
 * Squared displayed noise of pixels, by the luminances of their halves: of what the display f shows of their mean M, against
 * what it would show of either half alone, ((f(M) − f(A))² + (f(M) − f(B))²)/2. M is as far from a half as from the truth on
 * average, so small differences give f′²(A − B)²/4, the variance of the mean. Where one half is hot, the truth is next to
 * the other: (f(M) − f(the darker))². Never more than the display can show.
 */
function seenSquares(exposure: Display): (a: number, b: number) => number {
  const f = displayReader(exposure);
  const white = 1 / scaleOf(exposure);
  return (a, b) => {
    const less = Math.min(a, b);
    const more = Math.max(a, b);
    const shown = f((a + b) / 2);
    const low = shown - f(less);
    if (isHot(more, less, white)) return low * low;
    const high = f(more) - shown;
    return (low * low + high * high) / 2;
  };
}

/** Squared displayed noise of each pixel, from the luminances of the halves. Unsmoothed, 1 = display white. */
export function noiseSquares(a: Rgb, b: Rgb, exposure: Display): Float32Array {
  return luminanceSquares(luminances(a), luminances(b), exposure);
}

/** Luminances of a picture's pixels. */
export function luminances([r, g, b]: Rgb): Float32Array {
  const out = new Float32Array(r.length);
  for (let i = 0; i < out.length; i++) out[i] = luminance(r[i], g[i], b[i]);
  return out;
}

/** The same of halves that are luminances already. */
export function luminanceSquares(a: Float32Array, b: Float32Array, exposure: Display): Float32Array {
  const seen = seenSquares(exposure);
  const out = new Float32Array(a.length);
  for (let i = 0; i < out.length; i++) out[i] = seen(a[i], b[i]);
  return out;
}

/** Stops below the camera's exposure at which it is told what compositing may still bring to light. */
export const DARKER_STOPS = 3;
/** Pixels that are beyond white in one half of the samples and ordinary in the other: how many, and their share of all light. */
export interface HotPixels {
  count: number;
  ofLight: number;
}

export function hotPixels(a: Rgb, b: Rgb, exposure: Display): HotPixels {
  const white = 1 / scaleOf(exposure);
  let [count, light, whole] = [0, 0, 0];
  for (let i = 0; i < a[0].length; i++) {
    const ya = luminance(a[0][i], a[1][i], a[2][i]);
    const yb = luminance(b[0][i], b[1][i], b[2][i]);
    whole += (ya + yb) / 2;
    const [more, less] = ya > yb ? [ya, yb] : [yb, ya];
    if (!isHot(more, less, white)) continue;
    count++;
    light += (more - less) / 2;
  }
  return { count, ofLight: whole > 0 ? light / whole : 0 };
}

/** A display that shows everything so many stops darker. */
export function darker(exposure: Display, stops: number): Display {
  const scale = scaleOf(exposure) / 2 ** stops;
  return typeof exposure === 'number' ? scale : { ...exposure, scale };
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
  return noiseFigures(noiseSquares(a, b, exposure), width, height);
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

/** A cell as it lies in a tile of a film, and the halves that are meant in it. */
export interface CellHalves {
  /** Planes of `stride`×`stride` sums of samples. */
  tile: Float32Array;
  stride: number;
  w: number;
  h: number;
  /** Samples so far, even. */
  n: number;
  /** Planes of red of either half; green and blue follow. */
  a?: number;
  b?: number;
}

/** Visits a cell's pixels: the place in the tile, and the luminances of both halves as means of their samples. */
export function eachPixel(cell: CellHalves, visit: (i: number, ya: number, yb: number) => void): void {
  const { tile, stride, w, h, n, a = 0, b = 3 } = cell;
  const size = stride * stride;
  const scale = 2 / n;
  const at = (p: number, i: number) =>
    luminance(tile[p * size + i], tile[(p + 1) * size + i], tile[(p + 2) * size + i]) * scale;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * stride + x;
      visit(i, at(a, i), at(b, i));
    }
}

/** Sums over a cell's pixels: of squared displayed noise, and of what it is before display, (A − B)²/4 in luminance. */
function cellSums(cell: CellHalves, exposure: Display): { seen: number; plain: number } {
  const squares = seenSquares(exposure);
  let [seen, plain] = [0, 0];
  eachPixel(cell, (_, ya, yb) => {
    seen += squares(ya, yb);
    plain += ((ya - yb) * (ya - yb)) / 4;
  });
  return { seen, plain };
}

/** Noise of one cell in percent of display white. */
export function cellNoise(cell: CellHalves, exposure: Display): number {
  return Math.sqrt(cellSums(cell, exposure).seen / (cell.w * cell.h)) * 100;
}

/**
 * Squared weight w² by which a cell's noise in linear light is seen: the mean over its pixels of the squared secants of the
 * display transform that noise is seen by, weighed by the halves' differences. 0 where the halves are alike.
 */
export function cellWeight2(cell: CellHalves, exposure: Display): number {
  const { seen, plain } = cellSums(cell, exposure);
  return plain > 0 ? seen / plain : 0;
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
