import { type FilmLayers, relight, tally } from '@/core/film';
import { laidOver, noiseOf } from '@/core/stats';
import type { FilmCache } from './film-cache';
import type { RelitMeasure, TallyMeasure, ToFilm } from './film-protocol';

/** Noise of a relit film, whole and by group, from its halves. */
export async function measureRelit(
  cache: FilmCache,
  m: Extract<ToFilm, { type: 'measure'; what: 'relit' }>,
): Promise<RelitMeasure> {
  const names = m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
  const film = await cache.film(m.trial, names);
  const started = performance.now();
  const a = relight(film, m.groups, m.balance, 'half_a.');
  const b = relight(film, m.groups, m.balance, 'half_b.');
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
    const p = relight(film, m.groups, own, 'half_a.');
    const q = relight(film, m.groups, own, 'half_b.');
    // Alone but weighed as it stands in the whole picture, so that groups compare.
    byGroup[g] = p && q && a && b ? noiseOf(a, laidOver(q, p, a), film.width, film.height, m.exposure) : null;
  }
  return { noise, byGroup, ms };
}

/** How well a film's parts add up to its beauty. */
export async function measureTally(
  cache: FilmCache,
  m: Extract<ToFilm, { type: 'measure'; what: 'tally' }>,
): Promise<TallyMeasure | null> {
  const film: FilmLayers = await cache.film(m.trial, [
    'beauty',
    ...m.layers.filter((n) => n.startsWith(`${m.parting}.`)),
  ]);
  const result = tally(film, m.parting);
  return (
    result && {
      maxError: result.maxError,
      rmsError: result.rmsError,
      decibels: result.decibels,
      parts: result.parts.length,
    }
  );
}
