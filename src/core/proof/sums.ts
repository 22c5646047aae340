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

/** Root mean square of a − b over pixels that count, relative to the mean of a's luminance there. Infinite values never count. */
export function apart(a: Values, b: Values, counts: Uint8Array | null = null): number {
  let [squares, light, n] = [0, 0, 0];
  for (let i = 0; i < a[0].length; i++) {
    if (counts && counts[i] === 0) continue;
    const d = CHANNELS.reduce<number>((sum, c) => sum + (a[c][i] - b[c][i]) ** 2, 0);
    if (!Number.isFinite(d)) continue;
    squares += d;
    light += luminance(a[0][i], a[1][i], a[2][i]);
    n++;
  }
  return n === 0 ? 0 : Math.sqrt(squares / (3 * n)) / Math.max(Math.abs(light / n), 1e-20);
}
