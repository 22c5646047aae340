import { type Factors, LAYER, relight } from '@/core/film';
import type { Kind } from './kind';
import { color } from './painting';

/** The picture with its light groups balanced. */
export const relit: Kind<{ groups: string[]; factors: Factors }> = {
  layers: ({ groups }) => groups.map(LAYER.group),
  paint: (film, { groups, factors }, { exposure }) => {
    const planes = relight(film, groups, factors);
    return planes && color(planes, exposure);
  },
};
