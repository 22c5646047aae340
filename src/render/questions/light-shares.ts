import { isPartOfLight, lightShares as sharesOf } from '@/core/film';
import type { FilmOf } from '../views/film-of';
import type { Question } from './question';

/** What part of a trial's light lies in each of its parts; `layers` are those it keeps. */
export const lightShares: Question<{ of: FilmOf; layers: string[] }, Record<string, number>> = async ({ cache }, m) =>
  sharesOf(await cache.film(m.of, ['beauty', ...m.layers.filter(isPartOfLight)]));
