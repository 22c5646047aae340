import { curveThrough, decodeSrgb, encodeSrgb, luminance } from '../../image';
import { graded, type Picture, type Rgb, scaled } from '../picture';

/** Light times two to the power of `stops`, times a colour. */
export function exposure(p: Picture, { stops, tint }: { stops: number; tint: Rgb }): Picture {
  const k = 2 ** stops;
  return scaled(p, [tint[0] * k, tint[1] * k, tint[2] * k]);
}

/** What has the colour `rgb` becomes grey of the same luminance: a factor a channel [von Kries 1902, on the channels of the working space]. */
export function white(p: Picture, { rgb }: { rgb: Rgb }): Picture {
  const y = luminance(...rgb);
  if (rgb.every((c) => c === rgb[0]) || rgb.some((c) => c <= 0)) return p;
  return scaled(p, [y / rgb[0], y / rgb[1], y / rgb[2]]);
}

/** Slope of light in stops about `pivot`: pivot·(v/pivot)^amount for every channel; what is not above 0 stays. */
export function contrast(p: Picture, { amount, pivot }: { amount: number; pivot: number }): Picture {
  if (amount === 1) return p;
  const bent = (v: number) => (v > 0 ? pivot * (v / pivot) ** amount : v);
  return graded(p, (rgb) => {
    for (let c = 0; c < 3; c++) rgb[c] = bent(rgb[c]);
  });
}

/** Distance of colours from grey of their luminance, times `amount`; luminance stays. */
export function saturation(p: Picture, { amount }: { amount: number }): Picture {
  if (amount === 1) return p;
  return graded(p, (rgb) => {
    const y = luminance(...rgb);
    for (let c = 0; c < 3; c++) rgb[c] = y + amount * (rgb[c] - y);
  });
}

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

/** Gains of the dark, the middle and the light of a picture, by luminance. */
export function ranges(p: Picture, settings: Ranges): Picture {
  const { shadows, middle, lights } = settings;
  const gains = [shadows, middle, lights].map(({ stops, tint }) => tint.map((t) => t * 2 ** stops));
  if (gains.every((g) => g.every((v) => v === 1))) return p;
  return graded(p, (rgb) => {
    const w = rangeWeights(luminance(...rgb), settings);
    for (let c = 0; c < 3; c++) rgb[c] *= w[0] * gains[0][c] + w[1] * gains[1][c] + w[2] * gains[2][c];
  });
}

/** Rolls light off from `from` on towards 1, which it reaches at infinity: s + (1 − s)·x/(1 + x), x = (v − s)/(1 − s). With 1 nothing changes. */
export function shoulder(p: Picture, { from }: { from: number }): Picture {
  if (from === 1) return p;
  const rolled = (v: number) => {
    if (v <= from) return v;
    const x = (v - from) / (1 - from);
    return from + ((1 - from) * x) / (1 + x);
  };
  return graded(p, (rgb) => {
    for (let c = 0; c < 3; c++) rgb[c] = rolled(rgb[c]);
  });
}

type Points = readonly (readonly [number, number])[];

/** A curve through points and both ends, which goes on beyond them at the slope that it has there. */
function endless(points: Points): (v: number) => number {
  const curve = curveThrough(points);
  const STEP = 1e-4;
  const [first, last] = [curve(STEP) / STEP, (1 - curve(1 - STEP)) / STEP];
  return (v) => (v < 0 ? v * first : v > 1 ? 1 + (v - 1) * last : curve(v));
}

/** Curves on light as sRGB encodes it: one of all channels, then one of each. */
export function curves(
  p: Picture,
  { all, red, green, blue }: Record<'all' | 'red' | 'green' | 'blue', Points>,
): Picture {
  if ([all, red, green, blue].every((c) => c.length === 0)) return p;
  const [whole, ...each] = [all, red, green, blue].map(endless);
  return graded(p, (rgb) => {
    for (let c = 0; c < 3; c++) rgb[c] = decodeSrgb(each[c](whole(encodeSrgb(rgb[c]))));
  });
}
