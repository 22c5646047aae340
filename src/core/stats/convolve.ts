/** A picture filtered by a kernel along x and one along y, both of odd length; the border is repeated outwards. */
export function separable(
  src: Float32Array,
  width: number,
  height: number,
  alongX: readonly number[],
  alongY: readonly number[],
): Float32Array {
  const rows = new Float32Array(src.length);
  const out = new Float32Array(src.length);
  const [rx, ry] = [alongX.length >> 1, alongY.length >> 1];
  const line = new Float64Array(width + 2 * rx);
  for (let y = 0; y < height; y++) {
    const row = src.subarray(y * width, (y + 1) * width);
    line.fill(row[0], 0, rx).fill(row[width - 1], rx + width);
    line.set(row, rx);
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = 0; k < alongX.length; k++) sum += alongX[k] * line[x + k];
      rows[y * width + x] = sum;
    }
  }
  const sums = new Float64Array(width);
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    for (let k = -ry; k <= ry; k++) {
      const weight = alongY[k + ry];
      const from = Math.min(height - 1, Math.max(0, y + k)) * width;
      for (let x = 0; x < width; x++) sums[x] += weight * rows[from + x];
    }
    out.set(sums, y * width);
  }
  return out;
}

/** Values of a function at whole steps from −radius to radius. */
export const sampled = (radius: number, f: (x: number) => number) =>
  Array.from({ length: 2 * radius + 1 }, (_, i) => f(i - radius));

/** Scaled so that all sum to 1. */
export function unit(kernel: readonly number[]): number[] {
  const sum = kernel.reduce((a, v) => a + v, 0);
  return kernel.map((v) => v / sum);
}
