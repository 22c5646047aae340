import { pictureErrors } from '@/core/stats';
import { bothOf } from './difference';
import type { Kind } from './kind';
import { finiteRange, paint, percentiles } from './painting';

/** Where A and B look different when flicked between: FLIP of A against B, as displayed. */
export const flip: Kind<unknown> = {
  layers: () => ['beauty'],
  against: true,
  paint: (film, _, { exposure, other }) => {
    const both = bothOf(film, other);
    if (!both) return null;
    const { flip: map } = pictureErrors(both[1], both[0], film.width, film.height, exposure);
    const [dataLow, dataHigh] = finiteRange(map);
    const high = Math.max(0.05, percentiles(map, [0.995])[0]);
    return {
      pixels: paint(map, 'magma', 0, high),
      legend: { title: 'FLIP', unit: '0 to 1', scale: 'magma', low: 0, high, dataLow, dataHigh },
    };
  },
};
