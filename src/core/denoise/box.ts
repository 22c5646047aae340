import type { Plane, Size } from './filter';

/** Sums over the (2·reach + 1)² pixels about each, fewer at the edges, by running sums along rows and columns. */
export function boxSums(plane: Plane, { width, height }: Size, reach: number): Float32Array {
  const across = new Float32Array(plane.length);
  const out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) runningSums(plane, across, y * width, 1, width, reach);
  for (let x = 0; x < width; x++) runningSums(across, out, x, width, height, reach);
  return out;
}

function runningSums(from: Plane, to: Plane, at: number, stride: number, count: number, reach: number): void {
  let sum = 0;
  for (let i = 0; i < Math.min(reach, count); i++) sum += from[at + i * stride];
  for (let i = 0; i < count; i++) {
    if (i + reach < count) sum += from[at + (i + reach) * stride];
    if (i > reach) sum -= from[at + (i - reach - 1) * stride];
    to[at + i * stride] = sum;
  }
}

/** Pixels that `boxSums` sums about (x, y). */
export function boxCount(x: number, y: number, { width, height }: Size, reach: number): number {
  const across = Math.min(width - 1, x + reach) - Math.max(0, x - reach) + 1;
  return across * (Math.min(height - 1, y + reach) - Math.max(0, y - reach) + 1);
}

/** Means over the (2·reach + 1)² pixels about each, fewer at the edges. */
export function boxMeans(plane: Plane, size: Size, reach: number): Float32Array {
  const out = boxSums(plane, size, reach);
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) out[y * size.width + x] /= boxCount(x, y, size, reach);
  return out;
}
