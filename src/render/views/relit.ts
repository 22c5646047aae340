import { type Balance, LAYER, relight } from '@/core/film';
import type { Kind } from './kind';
import { color } from './painting';

/** The picture with its light groups balanced. */
export const relit: Kind<{ groups: string[]; balance: Balance }> = {
  layers: ({ groups }) => groups.map(LAYER.group),
  paint: (film, { groups, balance }, { exposure }) => {
    const planes = relight(film, groups, balance);
    return planes && color(planes, exposure);
  },
};
