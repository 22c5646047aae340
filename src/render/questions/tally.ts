import { type FilmLayers, type Parting, tally as tallyOf } from '@/core/film';
import type { FilmOf } from '../views/film-of';
import type { Question } from './question';

export interface TallyMeasure {
  maxError: number;
  rmsError: number;
  decibels: number;
  parts: number;
}

/** How well a trial's parts add up to its beauty; `layers` are those it keeps. Null where it has no such parts. */
export const tally: Question<{ of: FilmOf; parting: Parting; layers: string[] }, TallyMeasure | null> = async (
  { cache },
  m,
) => {
  const film: FilmLayers = await cache.film(m.of, ['beauty', ...m.layers.filter((n) => n.startsWith(`${m.parting}.`))]);
  const result = tallyOf(film, m.parting);
  return (
    result && {
      maxError: result.maxError,
      rmsError: result.rmsError,
      decibels: result.decibels,
      parts: result.parts.length,
    }
  );
};
