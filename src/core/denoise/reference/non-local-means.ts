import { boxMeans } from '../box';
import type { Plane, Size } from '../filter';

/** Difference below which nothing is told apart. */
const LEAST = 1e-10;

/**
 * Cross-half non-local means with variance [Rousselle, Knaus & Zwicker 2012]: weights made from one half act on the other. A
 * readable twin that the filter is measured against; not for use. `variance` is that of one half, of its channels
 * together; differences of `k` standard deviations still count as alike. Returns `source` filtered by what `steer` has.
 */
export function nonLocalMeans(
  steer: readonly Plane[],
  source: readonly Plane[],
  variance: Plane,
  size: Size,
  { reach, patch, k }: { reach: number; patch: number; k: number },
): Plane[] {
  const { width, height } = size;
  const sums = source.map((p) => new Float32Array(p.length));
  const whole = new Float32Array(width * height);
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++) {
      const apart = new Float32Array(width * height);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const [u, v] = [Math.min(width - 1, Math.max(0, x + dx)), Math.min(height - 1, Math.max(0, y + dy))];
          const [p, q] = [y * width + x, v * width + u];
          const [vp, vq] = [variance[p], variance[q]];
          const square = steer.reduce((sum, s) => sum + (s[p] - s[q]) ** 2, 0);
          apart[p] = (square - vp - Math.min(vp, vq)) / (LEAST + k * k * (vp + vq));
        }
      const distance = boxMeans(apart, size, patch);
      for (let y = Math.max(0, -dy); y < Math.min(height, height - dy); y++)
        for (let x = Math.max(0, -dx); x < Math.min(width, width - dx); x++) {
          const p = y * width + x;
          const w = Math.exp(-Math.max(0, distance[p]));
          whole[p] += w;
          for (let c = 0; c < sums.length; c++) sums[c][p] += w * source[c][p + dy * width + dx];
        }
    }
  for (const plane of sums) for (let i = 0; i < plane.length; i++) plane[i] /= whole[i];
  return sums;
}
