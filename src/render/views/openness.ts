import { OPENNESS, opennessAt } from '@/core/film';
import type { Kind } from './kind';
import { finiteRange, paint, type Range } from './painting';

/** Openness up to a reach, made of what films keep by reach, or as a film without that has it. */
export const openness: Kind<{ metres: number | null; range: Range | null }> = {
  layers: (_, kept) => [kept.includes(OPENNESS.layer) ? OPENNESS.layer : OPENNESS.bands],
  paint: (film, { metres, range }, { scale }) => {
    const bands = film.layers.get(OPENNESS.bands);
    const plane = bands ? opennessAt(bands.planes, metres) : film.layers.get(OPENNESS.layer)?.planes[0];
    if (!plane) return null;
    const [low, high] = range ?? scale ?? [0, 1];
    const [dataLow, dataHigh] = finiteRange(plane);
    return {
      pixels: paint(plane, 'viridis', low, high),
      legend: { title: 'Open', unit: '', scale: 'viridis', low, high, dataLow, dataHigh },
    };
  },
};
