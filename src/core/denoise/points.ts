import { luminance } from '../image';
import { boxCount, boxSums } from './box';
import type { Plane, Size } from './filter';

/** Both halves of a pixel are so many times as bright as the ring about it, and the darker one so much of the brighter. */
const BRIGHT = 4;
const ALIKE = 0.6;
/** So many standard deviations of the noise in the ring must lie between. */
const BEYOND = 8;
/** Pixels from its middle that the ring begins beyond, and reaches. */
const [INSIDE, OUTSIDE] = [1, 3];

/** Small bright things, taken out before filtering and put back after it: pixels, and three channels of each. */
export interface Points {
  pixels: Int32Array;
  values: Float32Array;
}

/**
 * Takes what both halves of a pixel have above the ring about it out of them, in place: glints, stars, a wire in the sun. They
 * are smaller than what patches can tell from chance, and both halves say that they are there.
 */
export function takePoints(a: readonly Plane[], b: readonly Plane[], size: Size): Points {
  const { width, height } = size;
  const [both, apart] = [new Float32Array(width * height), new Float32Array(width * height)];
  const [p, q, r] = a;
  const [u, v, w] = b;
  for (let i = 0; i < both.length; i++) {
    const [ya, yb] = [luminance(p[i], q[i], r[i]), luminance(u[i], v[i], w[i])];
    both[i] = ya + yb;
    apart[i] = (ya - yb) ** 2 / 2;
  }
  const ring = (plane: Float32Array) => {
    const inner = boxSums(plane, size, INSIDE);
    const out = boxSums(plane, size, OUTSIDE);
    for (let i = 0; i < out.length; i++) out[i] = Math.max(0, out[i] - inner[i]);
    return out;
  };
  const [light, noise] = [ring(both), ring(apart)];
  const pixels: number[] = [];
  const values: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const count = boxCount(x, y, size, OUTSIDE) - boxCount(x, y, size, INSIDE);
      if (count <= 0) continue;
      const mean = light[i] / (2 * count);
      const most = Math.max(BRIGHT * mean, mean + BEYOND * Math.sqrt(noise[i] / count));
      const [ya, yb] = [luminance(p[i], q[i], r[i]), luminance(u[i], v[i], w[i])];
      const less = Math.min(ya, yb);
      if (less <= most || less < ALIKE * Math.max(ya, yb)) continue;
      pixels.push(i);
      for (let c = 0; c < 3; c++) {
        const taken = Math.max(0, Math.min(a[c][i], b[c][i])) * (1 - most / less);
        a[c][i] -= taken;
        b[c][i] -= taken;
        values.push(taken);
      }
    }
  return { pixels: Int32Array.from(pixels), values: Float32Array.from(values) };
}

/** Puts points back into the planes of a part of the picture whose top left pixel is (x0, y0). */
export function putPoints(
  { pixels, values }: Points,
  planes: readonly Float32Array[],
  { width }: Size,
  part: { x: number; y: number; side: number },
): void {
  pixels.forEach((pixel, n) => {
    const [x, y] = [(pixel % width) - part.x, Math.floor(pixel / width) - part.y];
    if (x < 0 || y < 0 || x >= part.side || y >= part.side) return;
    for (let c = 0; c < 3; c++) planes[c][y * part.side + x] += values[n * 3 + c];
  });
}
