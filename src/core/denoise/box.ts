import type { Plane, Size } from './filter';

/** Sums over the (2·reach + 1)² pixels about each, fewer at the edges, by running sums along rows and columns. */
export function boxSums(plane: Plane, { width, height }: Size, reach: number): Float32Array {
  const across = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) alongRow(plane, across, y * width, width, reach);
  const out = new Float32Array(plane.length);
  // All columns at once, row by row, as rows lie in memory.
  const sums = new Float64Array(width);
  for (let y = 0; y < Math.min(reach, height); y++) for (let x = 0; x < width; x++) sums[x] += across[y * width + x];
  for (let y = 0, i = 0; y < height; y++) {
    const ahead = y + reach < height ? (y + reach) * width : -1;
    const behind = y > reach ? (y - reach - 1) * width : -1;
    if (ahead >= 0 && behind >= 0)
      for (let x = 0; x < width; x++, i++) {
        const sum = sums[x] + across[ahead + x] - across[behind + x];
        sums[x] = sum;
        out[i] = sum;
      }
    else
      for (let x = 0; x < width; x++, i++) {
        if (ahead >= 0) sums[x] += across[ahead + x];
        if (behind >= 0) sums[x] -= across[behind + x];
        out[i] = sums[x];
      }
  }
  return out;
}

function alongRow(from: Plane, to: Plane, at: number, count: number, reach: number): void {
  let sum = 0;
  for (let i = 0; i < Math.min(reach, count); i++) sum += from[at + i];
  const whole = Math.max(0, count - reach);
  let i = 0;
  for (; i < Math.min(whole, reach + 1); i++) {
    sum += from[at + i + reach];
    to[at + i] = sum;
  }
  for (; i < whole; i++) {
    sum = sum + from[at + i + reach] - from[at + i - reach - 1];
    to[at + i] = sum;
  }
  for (; i < count; i++) {
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
