import type { Slot } from '../page/told';
import { type Within, within as withinOf } from '../views/overlap';
import type { Area } from '../views/place';
import type { Question } from './question';

/** Figures of a part of A and B; null for a slot that shows nothing there. */
export type WithinBoth = Record<'a' | 'b', Within | null>;

const FIGURED = ['half_a', 'half_b', 'cost'];

/** Noise and share of the time of a part of A and B. */
export const within: Question<{ area: Area }, WithinBoth> = async (desk, { area }) => {
  const of = async (slot: Slot) => {
    const source = desk.sources[slot];
    if (source?.kind === 'trial')
      return withinOf({ film: await desk.cache.film(source, FIGURED), place: source.frame }, area, desk.sceneExposure);
    const place = desk.live?.place();
    const film = source?.kind === 'live' ? desk.live?.layers(FIGURED) : null;
    return film && place ? withinOf({ film, place }, area, desk.sceneExposure) : null;
  };
  const [a, b] = await Promise.all([of('A'), of('B')]);
  return { a, b };
};
