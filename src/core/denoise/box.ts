import type { Plane, Size } from './filter';

/** Sums over the (2·reach + 1)² pixels about each, fewer at the edges, by running sums along rows and columns. */
export function boxSums(plane: Plane, { width, height }: Size, reach: number): Float32Array {
  const across = new Float32Array(plane.length);
  const out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) alongRow(plane, across, y * width, width, reach);
  // All columns at once, row by row, as rows lie in memory.
  const sums = new Float64Array(width);
  const add = (y: number, sign: number) => {
    for (let x = 0, i = y * width; x < width; x++, i++) sums[x] += sign * across[i];
  };
  for (let y = 0; y < Math.min(reach, height); y++) add(y, 1);
  for (let y = 0; y < height; y++) {
    if (y + reach < height) add(y + reach, 1);
    if (y > reach) add(y - reach - 1, -1);
    out.set(sums, y * width);
  }
  return out;
}

function alongRow(from: Plane, to: Plane, at: number, count: number, reach: number): void {
  let sum = 0;
  for (let i = 0; i < Math.min(reach, count); i++) sum += from[at + i];
  for (let i = 0; i < count; i++) {
    if (i + reach < count) sum += from[at + i + reach];
    if (i > reach) sum -= from[at + i - reach - 1];
    to[at + i] = sum;
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
