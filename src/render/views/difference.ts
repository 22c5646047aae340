import type { FilmLayers } from '@/core/film';
import { type Display, displayValue, luminance } from '@/core/image';
import type { Rgb } from '@/core/stats';
import type { Kind } from './kind';
import { finiteRange, type Painted, percentiles, planes3 } from './painting';

/** Two pictures of one size, as light; null where they are not. */
export function bothOf(a: FilmLayers, b: FilmLayers | null): [Rgb, Rgb] | null {
  const p = planes3(a, 'beauty');
  const q = b && planes3(b, 'beauty');
  return p && q && a.width === b.width && a.height === b.height ? [p, q] : null;
}

/** Signed difference of two pictures as displayed: amber where the first is brighter, cyan where the second is. */
export function differenceOf(p: Rgb, q: Rgb, title: string, exposure: Display, gain: number | null = null): Painted {
  const size = p[0].length;
  const d = new Float32Array(size);
  for (let i = 0; i < size; i++) {
    d[i] =
      (displayValue(luminance(p[0][i], p[1][i], p[2][i]), exposure) -
        displayValue(luminance(q[0][i], q[1][i], q[2][i]), exposure)) *
      100;
  }
  const [dataLow, dataHigh] = finiteRange(d);
  const [low, high] = percentiles(d, [0.01, 0.99]);
  const top = gain === null ? Math.max(Math.abs(low), Math.abs(high), 0.01) : 100 / gain;
  const pixels = new Uint8ClampedArray(size * 4);
  for (let i = 0, o = 0; i < size; i++, o += 4) {
    const k = Math.max(-1, Math.min(1, d[i] / top));
    const m = Math.abs(k);
    pixels[o] = k > 0 ? 20 + 222 * m : 20 + 70 * m;
    pixels[o + 1] = 20 + (k > 0 ? 156 : 178) * m;
    pixels[o + 2] = k > 0 ? 20 + 40 * m : 20 + 194 * m;
    pixels[o + 3] = 255;
  }
  return {
    pixels,
    legend: { title, unit: '% of white', scale: 'a-b', low: -top, high: top, dataLow, dataHigh },
  };
}

/** A less B as displayed, at a gain; null fits the scale to what differs. */
export const difference: Kind<{ gain: number | null }> = {
  layers: () => ['beauty'],
  against: true,
  paint: (film, { gain }, { exposure, other }) => {
    const both = bothOf(film, other);
    return both && differenceOf(both[0], both[1], 'A − B', exposure, gain);
  },
};
