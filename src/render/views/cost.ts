import type { Kind } from './kind';
import { finiteRange, paint, percentiles } from './painting';

/** Time of one thread that each pixel took. */
export const cost: Kind<unknown> = {
  layers: () => ['cost'],
  paint: (film, _, { scale }) => {
    const layer = film.layers.get('cost');
    if (!layer) return null;
    const [dataLow, dataHigh] = finiteRange(layer.planes[0]);
    const high = scale ? scale[1] : percentiles(layer.planes[0], [0.99])[0];
    return {
      pixels: paint(layer.planes[0], 'cividis', 0, high),
      legend: { title: 'Cost', unit: 'µs a pixel', scale: 'cividis', low: 0, high, dataLow, dataHigh },
    };
  },
};
