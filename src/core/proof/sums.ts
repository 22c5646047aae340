import { luminance } from '../image';

/** Red, green and blue, scene-linear, a value a pixel. */
export type Colour = readonly Float32Array[];

/** A layer of light that is in the sum. */
export interface PartOf {
  name: string;
  planes: Colour;
}

/** What is held against each other: the beauty and the layers that are to sum to it. */
export interface Held {
  width: number;
  height: number;
  beauty: Colour;
  parts: readonly PartOf[];
}

export const CHANNELS = [0, 1, 2] as const;

/** Sum of parts, in double precision. */
export function summed(parts: readonly PartOf[], size: number): Float64Array[] {
  return CHANNELS.map((c) => {
    const sum = new Float64Array(size);
    for (const { planes } of parts) for (let i = 0; i < size; i++) sum[i] += planes[c][i];
    return sum;
  });
}

/** Values of a picture, whichever precision. */
export type Values = readonly ArrayLike<number>[];

/** Share of the mean below which differences count as they do there. */
const FLOOR = 1 / 20;

/**
 * How far a picture is from the one that is wanted, over the pixels that count: root mean square of the differences relative to
 * max(wanted, mean / 20), each at most 1, so that no lamp outweighs the rest. Infinite values never count.
 */
export function apart(wanted: Values, made: Values, counts: Uint8Array | null = null): number {
  const isIn = (i: number) => !counts || counts[i] === 1;
  let [light, n] = [0, 0];
  for (let i = 0; i < wanted[0].length; i++) {
    const own = luminance(wanted[0][i], wanted[1][i], wanted[2][i]);
    if (!isIn(i) || !Number.isFinite(own)) continue;
    light += own;
    n++;
  }
  if (n === 0) return 0;
  const floor = Math.max((light / n) * FLOOR, 1e-20);
  let squares = 0;
  for (let i = 0; i < wanted[0].length; i++) {
    if (!isIn(i)) continue;
    for (const c of CHANNELS) {
      const d = Math.abs(made[c][i] - wanted[c][i]) / Math.max(wanted[c][i], floor);
      if (Number.isFinite(d)) squares += Math.min(1, d) ** 2;
    }
  }
  return Math.sqrt(squares / (3 * n));
}
