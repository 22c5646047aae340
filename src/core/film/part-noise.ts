import type { Display } from '../image';
import { laidOver, type Noise, noiseOf } from '../stats';
import type { FilmLayers } from './layers';
import { type Factors, factorOf, relight } from './relight';

/** Noise of a relit film, whole and of light groups in it, in percent of display white; null where a half is missing. */
export interface PartNoise {
  noise: Noise | null;
  byGroup: Record<string, Noise | null>;
}

const BLACK = [0, 0, 0] as const;
/** Factors of some groups alone. */
const alone = (groups: readonly string[], factors: Factors, kept: readonly string[]): Factors =>
  Object.fromEntries(groups.map((g) => [g, kept.includes(g) ? factorOf(factors, g) : BLACK]));

/** The halves of a film relit, and how the noise of some of its groups is measured against them. */
function measured(film: FilmLayers, groups: readonly string[], factors: Factors, exposure: Display) {
  const a = relight(film, groups, factors, 'a');
  const b = relight(film, groups, factors, 'b');
  const noiseOfGroups = (kept: readonly string[]): Noise | null => {
    const own = alone(groups, factors, kept);
    const p = relight(film, groups, own, 'a');
    const q = relight(film, groups, own, 'b');
    // Alone but weighed as it stands in the whole picture, so that groups compare.
    return p && q && a && b ? noiseOf(a, laidOver(q, p, a), film.width, film.height, exposure) : null;
  };
  return { a, b, noiseOfGroups };
}

/** Noise of a film with its light groups at these factors, and of every group in it. */
export function partNoise(film: FilmLayers, groups: readonly string[], factors: Factors, exposure: Display): PartNoise {
  const { a, b, noiseOfGroups } = measured(film, groups, factors, exposure);
  return {
    noise: a && b ? noiseOf(a, b, film.width, film.height, exposure) : null,
    byGroup: Object.fromEntries(groups.map((g) => [g, noiseOfGroups([g])])),
  };
}

/** Noise of several groups joined in one layer, as of the remainder of what is written. */
export const joinedNoise = (
  film: FilmLayers,
  groups: readonly string[],
  joined: readonly string[],
  exposure: Display,
): Noise | null => measured(film, groups, {}, exposure).noiseOfGroups(joined);
