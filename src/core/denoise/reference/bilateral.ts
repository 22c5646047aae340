import type { Plane, Size } from '../filter';

/**
 * A joint bilateral filter [Eisemann & Durand 2004; Petschnigg et al. 2004]: weights by distance in the picture and by guides
 * alone, in units of their noise. A readable twin that the filter is measured against; not for use. Guides are such that a
 * difference of 1 is a clear edge; `variance` is theirs together.
 */
export function jointBilateral(
  source: readonly Plane[],
  guides: readonly Plane[],
  variance: Plane,
  { width, height }: Size,
  reach: number,
): Plane[] {
  const out = source.map((p) => new Float32Array(p.length));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = y * width + x;
      const sums = source.map(() => 0);
      let whole = 0;
      for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v++)
        for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++) {
          const q = v * width + u;
          const noise = variance[p] + variance[q];
          const apart = guides.reduce((sum, g) => sum + (g[p] - g[q]) ** 2, 0);
          const near = (2 * ((u - x) ** 2 + (v - y) ** 2)) / reach ** 2;
          const w = Math.exp(-near - Math.max(0, apart - noise) / (0.1 + noise));
          whole += w;
          for (let c = 0; c < sums.length; c++) sums[c] += w * source[c][q];
        }
      for (let c = 0; c < sums.length; c++) out[c][p] = sums[c] / whole;
    }
  return out;
}
