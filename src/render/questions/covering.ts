import { maskBits, ranksOf } from '@/core/exr';
import { MASKED_BY } from '@/core/outputs';
import type { FilmDesk } from '../page/desk';
import type { Area } from '../views/place';
import type { Question } from './question';

/** Smallest share of an area that counts as being in it. */
const LEAST = 0.001;

/** The coverage of what A shows; null where it keeps none, or nothing is there yet. */
async function coverageIn({ sources, cache, live }: FilmDesk) {
  const source = sources.A;
  const film =
    source?.kind === 'trial' && source.layers.includes(MASKED_BY)
      ? await cache.film(source, [MASKED_BY])
      : source?.kind === 'live'
        ? live?.layers([MASKED_BY])
        : null;
  const place = source?.kind === 'trial' ? source.frame : live?.place();
  const layer = film?.layers.get(MASKED_BY);
  return film && place && layer ? { film, place, layer } : null;
}

/**
 * Which of the named objects cover an area of what A shows, the one that covers most first. A point is an area without
 * size: the pixel there. `names` are in the order of numbers of coverage planes in memory.
 */
export const covering: Question<{ area: Area; names: string[] }, string[]> = async (desk, { area, names }) => {
  const got = await coverageIn(desk);
  if (!got) return [];
  const { place, film, layer } = got;
  const pixel = (fraction: number, size: number, from: number, most: number) =>
    Math.max(0, Math.min(most - 1, Math.floor(fraction * size) - from));
  const [x0, x1] = [area.x, area.x + area.w].map((v) => pixel(v, place.width, place.x, film.width));
  const [y0, y1] = [area.y, area.y + area.h].map((v) => pixel(v, place.height, place.y, film.height));
  const { numbered, ranks } = ranksOf(layer.channels, layer.planes);
  const nameOf = new Map(names.map((n, i) => [numbered ? i + 1 : maskBits(n), n]));
  const shares = new Map<string, number>();
  for (const { id, share } of ranks) {
    const ids = numbered ? id : new Uint32Array(id.buffer, id.byteOffset, id.length);
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const i = y * film.width + x;
        const name = share[i] > 0 ? nameOf.get(ids[i]) : undefined;
        if (name !== undefined) shares.set(name, (shares.get(name) ?? 0) + share[i]);
      }
  }
  const pixels = (x1 - x0 + 1) * (y1 - y0 + 1);
  return [...shares]
    .filter(([, s]) => s / pixels >= LEAST)
    .sort((a, b) => b[1] - a[1])
    .map(([name]) => name);
};
