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
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = -rx; k <= rx; k++) sum += alongX[k + rx] * src[y * width + Math.min(width - 1, Math.max(0, x + k))];
      rows[y * width + x] = sum;
    }
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = -ry; k <= ry; k++)
        sum += alongY[k + ry] * rows[Math.min(height - 1, Math.max(0, y + k)) * width + x];
      out[y * width + x] = sum;
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
