import { layerInfo, type Parting, tally as tallyOf } from '@/core/film';
import type { Kind } from './kind';
import { finiteRange, paint } from './painting';

/** How far the parts of a family are from adding up to the beauty, pixel by pixel. */
export const tally: Kind<{ parting: Parting }> = {
  layers: ({ parting }, kept) => ['beauty', ...kept.filter((n) => layerInfo(n).family === parting)],
  paint: (film, { parting }) => {
    const result = tallyOf(film, parting);
    if (!result) return null;
    const log = result.map.map((v) => (v > 0 ? Math.log10(v) : -9));
    const [dataLow, dataHigh] = finiteRange(log);
    return {
      pixels: paint(log, 'magma', -8, -2),
      legend: {
        title: 'Tally error',
        unit: 'log10 of the share of the beauty',
        scale: 'magma',
        low: -8,
        high: -2,
        dataLow,
        dataHigh,
      },
    };
  },
};
