import { type Balance, relight } from '@/core/film';
import { laidOver, type Noise, noiseOf } from '@/core/stats';
import type { FilmOf } from '../page/told';
import type { Question } from './question';

export interface RelitMeasure {
  noise: Noise | null;
  byGroup: Record<string, Noise | null>;
  ms: number;
}

/** Noise of a relit film, whole and by group, from its halves. */
export const relit: Question<
  { of: FilmOf; groups: string[]; balance: Balance; exposure: number },
  RelitMeasure
> = async ({ cache }, m) => {
  const names = m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
  const film = await cache.film(m.of, names);
  const started = performance.now();
  const a = relight(film, m.groups, m.balance, 'a');
  const b = relight(film, m.groups, m.balance, 'b');
  const noise = a && b ? noiseOf(a, b, film.width, film.height, m.exposure) : null;
  const ms = performance.now() - started;
  const byGroup: RelitMeasure['byGroup'] = {};
  for (const g of m.groups) {
    const own = {
      ...m.balance,
      ...Object.fromEntries(
        m.groups.map((o) => [
          o,
          {
            ...(m.balance[o] ?? { stops: 0, color: [1, 1, 1] }),
            on: o === g && (m.balance[o]?.on ?? true),
            solo: false,
          },
        ]),
      ),
    } as typeof m.balance;
    const p = relight(film, m.groups, own, 'a');
    const q = relight(film, m.groups, own, 'b');
    // Alone but weighed as it stands in the whole picture, so that groups compare.
    byGroup[g] = p && q && a && b ? noiseOf(a, laidOver(q, p, a), film.width, film.height, m.exposure) : null;
  }
  return { noise, byGroup, ms };
};
