import { type Factors, joinedNoise, LAYER, partNoise } from '@/core/film';
import type { FilmOf } from '../views/film-of';
import type { Question } from './question';

/** Noise of a layer in percent of display white, and in the mood in which it is largest; null without moods. */
export interface LayerNoise {
  rms: number;
  worst: { mood: string; rms: number } | null;
}

interface Asked {
  of: FilmOf;
  groups: string[];
  moods: { name: string; factors: Factors }[];
  /** Groups that are in the remainder. */
  unwritten: string[];
  exposure: number;
}

/** Noise of the layers of a film whose halves are kept, by the names of the layers. */
export const layerNoise: Question<Asked, Record<string, LayerNoise>> = async ({ cache }, m, { signal }) => {
  const film = await cache.film(
    m.of,
    m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]),
  );
  const out: Record<string, LayerNoise> = {};
  const plain = partNoise(film, m.groups, {}, m.exposure).byGroup;
  for (const [g, noise] of Object.entries(plain)) if (noise) out[LAYER.group(g)] = { rms: noise.rms, worst: null };
  for (const { name, factors } of m.moods) {
    // Between moods others are let in, and what nobody waits for ends.
    await new Promise((done) => setTimeout(done, 0));
    signal.throwIfAborted();
    for (const [g, noise] of Object.entries(partNoise(film, m.groups, factors, m.exposure).byGroup)) {
      const own = out[LAYER.group(g)];
      if (own && noise && noise.rms > (own.worst?.rms ?? -1)) own.worst = { mood: name, rms: noise.rms };
    }
  }
  const rest = m.unwritten.length > 0 ? joinedNoise(film, m.groups, m.unwritten, m.exposure) : null;
  if (rest) out[LAYER.rest('group')] = { rms: rest.rms, worst: null };
  return out;
};
