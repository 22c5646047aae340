import { layerInfo, type Parting, restOf, sumOf } from '@/core/film';
import { writes } from '@/core/outputs';
import type { Kind } from './kind';
import { color, planes3 } from './painting';

/** What an output writes of a family that sums to the picture: summed, or what is left of the picture beside it. */
export const chosen: Kind<{ family: Parting; of: string[]; what: 'sum' | 'rest' }> = {
  layers: ({ family, of }, kept) => [
    'beauty',
    ...kept.filter((n) => layerInfo(n).family === family && writes({ layers: of }, n)),
  ],
  paint: (film, { family, of, what }, { exposure }) => {
    const beauty = planes3(film, 'beauty');
    if (!beauty) return null;
    const parts = [...film.layers.values()].filter(
      (l) => layerInfo(l.name).family === family && writes({ layers: of }, l.name),
    );
    return color(what === 'sum' ? sumOf(parts, beauty[0].length) : restOf(beauty, parts), exposure);
  },
};
