import { type FilmLayers, relight, tally } from '@/core/film';
import { noiseOf, type Rgb } from '@/core/stats';
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
    byGroup[g] =
      p && q && a && b ? noiseOf(shifted(p, a), shifted(q, a, p), film.width, film.height, m.exposure) : null;
  }
  return { noise, byGroup, ms };
}

/** A group's half laid over the rest of the relit picture, so that its noise is weighed at the picture's brightness. */
function shifted(part: Rgb, whole: Rgb, own: Rgb = part): Rgb {
  return part.map((p, c) => {
    const out = new Float32Array(p.length);
    for (let i = 0; i < p.length; i++) out[i] = whole[c][i] - own[c][i] + p[i];
    return out;
  }) as unknown as Rgb;
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
