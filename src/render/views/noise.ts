import { type FilmLayers, LAYER } from '@/core/film';
import { laidOver, noiseMap, noiseSquares, type Rgb } from '@/core/stats';
import type { Kind } from './kind';
import { finiteRange, paint, percentiles, planes3 } from './painting';

/** Halves whose difference is the noise shown: the picture's, or those of a group laid over the rest of the picture. */
function noisyHalves(film: FilmLayers, of: string | null): [Rgb, Rgb] | null {
  const a = planes3(film, LAYER.half('a', of ?? undefined));
  const b = planes3(film, LAYER.half('b', of ?? undefined));
  if (!a || !b) return null;
  if (of === null) return [a, b];
  const [whole, own] = [planes3(film, 'beauty'), planes3(film, LAYER.group(of))];
  return whole && own && [laidOver(a, own, whole), laidOver(b, own, whole)];
}

/** Noise in percent of display white: of the picture, or of one light group as it stands in it. */
export const noise: Kind<{ of: string | null }> = {
  layers: ({ of }) =>
    of === null
      ? [LAYER.half('a'), LAYER.half('b')]
      : ['beauty', LAYER.group(of), LAYER.half('a', of), LAYER.half('b', of)],
  weighsNoise: true,
  paint: (film, { of }, { exposure, scale }) => {
    const halves = noisyHalves(film, of);
    if (!halves) return null;
    const [a, b] = halves;
    const map = noiseMap(noiseSquares(a, b, exposure), film.width, film.height);
    const [dataLow, dataHigh] = finiteRange(map);
    const high = scale ? scale[1] : percentiles(map, [0.98])[0];
    return {
      pixels: paint(map, 'magma', 0, high),
      legend: {
        title: of === null ? 'Noise' : `Noise of ${of.replaceAll('_', ' ')}`,
        unit: '% of white',
        scale: 'magma',
        low: 0,
        high,
        dataLow,
        dataHigh,
      },
    };
  },
};
