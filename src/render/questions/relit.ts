import { type Balance, type PartNoise, partNoise } from '@/core/film';
import type { FilmOf } from '../page/told';
import type { Question } from './question';

export interface RelitMeasure extends PartNoise {
  ms: number;
}

/** Noise of a relit film, whole and by group, from its halves. */
export const relit: Question<
  { of: FilmOf; groups: string[]; balance: Balance; exposure: number },
  RelitMeasure
> = async ({ cache }, m) => {
  const film = await cache.film(
    m.of,
    m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]),
  );
  const started = performance.now();
  const noise = partNoise(film, m.groups, m.balance, m.exposure);
  return { ...noise, ms: performance.now() - started };
};
