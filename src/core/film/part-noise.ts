import type { Display } from '../image';
import { laidOver, type Noise, noiseOf } from '../stats';
import type { FilmLayers } from './layers';
import { type Balance, NEUTRAL, relight } from './relight';

/** Noise of a relit film, whole and of light groups in it, in percent of display white; null where a half is missing. */
export interface PartNoise {
  noise: Noise | null;
  byGroup: Record<string, Noise | null>;
}

/** A mood with the light of some groups alone. */
const alone = (groups: readonly string[], balance: Balance, kept: readonly string[]): Balance =>
  Object.fromEntries(
    groups.map((g) => {
      const own = balance[g] ?? NEUTRAL;
      return [g, { ...own, on: own.on && kept.includes(g), solo: false }];
    }),
  );

/** The halves of a film relit, and how the noise of some of its groups is measured against them. */
function measured(film: FilmLayers, groups: readonly string[], balance: Balance, exposure: Display) {
  const a = relight(film, groups, balance, 'a');
  const b = relight(film, groups, balance, 'b');
  const noiseOfGroups = (kept: readonly string[]): Noise | null => {
    const own = alone(groups, balance, kept);
    const p = relight(film, groups, own, 'a');
    const q = relight(film, groups, own, 'b');
    // Alone but weighed as it stands in the whole picture, so that groups compare.
    return p && q && a && b ? noiseOf(a, laidOver(q, p, a), film.width, film.height, exposure) : null;
  };
  return { a, b, noiseOfGroups };
}

/** Noise of a film in a mood, and of every light group in it. */
export function partNoise(film: FilmLayers, groups: readonly string[], balance: Balance, exposure: Display): PartNoise {
  const { a, b, noiseOfGroups } = measured(film, groups, balance, exposure);
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
