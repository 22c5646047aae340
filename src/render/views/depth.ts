import { LEDGER_LAYERS, pictureAtLimit } from '@/core/film';
import { differenceOf } from './difference';
import type { Kind } from './kind';
import { color } from './painting';

/** The picture at a limit of the ledger's axis, or how it differs from the whole one. */
export const depth: Kind<{ limit: number; difference: boolean }> = {
  layers: () => LEDGER_LAYERS,
  paint: (film, { limit, difference }, { exposure }) => {
    const at = pictureAtLimit(film, limit);
    if (!at) return null;
    if (!difference) return color(at, exposure);
    return differenceOf(at, pictureAtLimit(film, LEDGER_LAYERS.length - 1)!, 'at the limit − whole', exposure);
  },
};
