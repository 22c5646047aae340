import { changedMap } from '@/core/denoise';
import type { FilmLayers } from '@/core/film';
import type { Kind } from './kind';
import { finiteRange, paint, percentiles } from './painting';
import { plainly } from './plainly';

const PLAIN = ['beauty', 'half_a', 'half_b'];

/** What denoising took away and noise does not explain, in percent of display white. */
export const changed: Kind<object> = {
  layers: () => ['beauty', ...PLAIN.map(plainly)],
  weighsNoise: true,
  paint: (film, _options, { exposure, scale }) => {
    const own = PLAIN.flatMap((n) => {
      const layer = film.layers.get(plainly(n));
      return layer ? [[n, layer] as const] : [];
    });
    if (own.length < PLAIN.length) return null;
    const plain: FilmLayers = { ...film, layers: new Map(own) };
    const map = changedMap(plain, film, exposure).map((v) => v * 100);
    const [dataLow, dataHigh] = finiteRange(map);
    const high = scale ? scale[1] : Math.max(0.5, percentiles(map, [0.995])[0]);
    return {
      pixels: paint(map, 'magma', 0, high),
      legend: { title: 'Changed', unit: '% of white', scale: 'magma', low: 0, high, dataLow, dataHigh },
    };
  },
};
