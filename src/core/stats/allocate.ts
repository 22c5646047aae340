/** A cell as far as dealing out samples goes. */
export interface CellNeed {
  /** Pixels in it, samples each has, and the squared displayed noise they leave, 1 = display white. */
  pixels: number;
  samples: number;
  squares: number;
  /** What a sample of a pixel costs there, in any unit. */
  cost: number;
}

/** Least squares a cell is taken to have, as a share of the mean of all: what has shown no noise yet may still have some. */
const LEAST_SHARE = 0.02;

/**
 * Samples a pixel that cells should have so that the mean squared noise of all pixels falls to `target` (1 = display
 * white) for the least cost: N ∝ √(V/c) within [its own, most], V the variance of one sample [Neyman 1934; Cochran,
 * Sampling Techniques, section 5.5]. Where `most` keeps the target out of reach, all get `most`.
 */
export function allocate(cells: readonly CellNeed[], target: number, most: number): Float64Array {
  const pixels = cells.reduce((n, c) => n + c.pixels, 0);
  const mean = cells.reduce((s, c) => s + c.squares * c.pixels, 0) / Math.max(1, pixels);
  const weight = cells.map((c) =>
    Math.sqrt((Math.max(c.squares, mean * LEAST_SHARE) * c.samples) / Math.max(c.cost, 1e-9)),
  );
  const at = (k: number) =>
    cells.map((c, i) => Math.min(Math.max(most, c.samples), Math.max(c.samples, k * weight[i])));
  const squaresAt = (n: number[]) =>
    cells.reduce((s, c, i) => s + (c.squares * c.samples * c.pixels) / Math.max(1, n[i]), 0) / Math.max(1, pixels);
  let low = 0;
  let high = most / Math.max(1e-12, Math.min(...weight.filter((w) => w > 0)));
  if (squaresAt(at(high)) > target) return Float64Array.from(at(high));
  for (let step = 0; step < 60; step++) {
    const middle = (low + high) / 2;
    if (squaresAt(at(middle)) > target) low = middle;
    else high = middle;
  }
  return Float64Array.from(at(high));
}
