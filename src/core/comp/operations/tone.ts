import { curveThrough } from '../../image';
import type { Rgb } from '../picture';

/** What tones do to one value. */

/** Slope of light in stops about `pivot`: pivot·(v/pivot)^amount; what is not above 0 stays. */
export const bentBy =
  ({ amount, pivot }: { amount: number; pivot: number }) =>
  (v: number): number =>
    v > 0 ? pivot * (v / pivot) ** amount : v;

/** Rolls light off from `from` on towards 1, which it reaches at infinity: s + (1 − s)·x/(1 + x), x = (v − s)/(1 − s). */
export const rolledFrom =
  (from: number) =>
  (v: number): number => {
    if (v <= from) return v;
    const x = (v - from) / (1 - from);
    return from + ((1 - from) * x) / (1 + x);
  };

interface Range {
  stops: number;
  tint: Rgb;
}
export interface Ranges {
  low: number;
  high: number;
  widthStops: number;
  shadows: Range;
  middle: Range;
  lights: Range;
}

const smooth = (t: number) => {
  const u = Math.min(1, Math.max(0, t));
  return u * u * (3 - 2 * u);
};

/** How much a luminance is of the dark, the middle and the light: together 1, going over in `widthStops` about both levels. */
export function rangeWeights(y: number, { low, high, widthStops }: Pick<Ranges, 'low' | 'high' | 'widthStops'>): Rgb {
  if (y <= 0) return [1, 0, 0];
  const over = (level: number) => smooth(Math.log2(y / level) / widthStops + 0.5);
  const [aboveLow, aboveHigh] = [over(low), over(Math.max(low, high))];
  const lights = Math.min(aboveLow, aboveHigh);
  return [1 - aboveLow, aboveLow - lights, lights];
}

/** Factors on red, green and blue by luminance; null where they change nothing. */
export function gainsOf(settings: Ranges): ((y: number) => Rgb) | null {
  const { shadows, middle, lights } = settings;
  const gains = [shadows, middle, lights].map(({ stops, tint }) => tint.map((t) => t * 2 ** stops));
  if (gains.every((g) => g.every((v) => v === 1))) return null;
  return (y) => {
    const w = rangeWeights(y, settings);
    const of = (c: number) => w[0] * gains[0][c] + w[1] * gains[1][c] + w[2] * gains[2][c];
    return [of(0), of(1), of(2)];
  };
}

export type Points = readonly (readonly [number, number])[];

/** A curve through points and both ends, which goes on beyond them at the slope that it has there. */
export function endless(points: Points): (v: number) => number {
  const curve = curveThrough(points);
  const STEP = 1e-4;
  const [first, last] = [curve(STEP) / STEP, (1 - curve(1 - STEP)) / STEP];
  return (v) => (v < 0 ? v * first : v > 1 ? 1 + (v - 1) * last : curve(v));
}

/** What is left of light towards the corners: from the distance `from` on (1 is a corner), down to 1 − amount there, with no step in slope where it begins. */
export function vignetteFactor(
  { amount, from }: { amount: number; from: number },
  width: number,
  height: number,
): Float32Array {
  const factor = new Float32Array(width * height);
  const corner = Math.hypot(width, height) / 2;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const d = Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / corner;
      const t = from < 1 ? Math.max(0, (d - from) / (1 - from)) : 0;
      factor[y * width + x] = 1 - amount * t * t;
    }
  return factor;
}
