import { type Factors, type FilmLayers, factorOf, RelitHalves } from '@/core/film';
import type { Display } from '@/core/image';
import { groupTree } from '@/core/scene';
import { MOST_STOPS } from './bounds';

/** Stops by which a light group, or one that others are in, can be lifted until the noise target breaks; 0 when it is broken as it stands. */
export type Headroom = Record<string, number>;

const STRIDE = 0.5;
const HALVINGS = 4;

/**
 * How far each light group of a film can be lifted by itself from where `factors` have it, the others as they are, until the noise of the relit
 * picture is above `target` percent of display white: in half stops, then to 1/32 of a stop; as far as is asked about for a group that is
 * black. `pause` is awaited between steps. Null when the film lacks the groups' halves.
 */
export async function headroom(
  film: FilmLayers,
  groups: readonly string[],
  factors: Factors,
  target: number,
  exposure: Display,
  pause: () => Promise<void> = async () => {},
): Promise<Headroom | null> {
  const halves = RelitHalves.of(film, groups, factors, exposure);
  if (!halves) return null;
  const now = halves.noise().rms;
  const noiseAt = (group: string, stops: number) => halves.lifted(group, stops).rms;
  const out: Headroom = {};
  for (const { name: group, groups: own } of groupTree(groups)) {
    // Far beyond, a group burns out to white and is quiet again: the first break counts.
    const isBlack = own.every((g) => factorOf(factors, g).every((k) => k === 0));
    let low = isBlack && now <= target ? MOST_STOPS : 0;
    while (now <= target && low < MOST_STOPS && noiseAt(group, low + STRIDE) <= target) {
      low += STRIDE;
      await pause();
    }
    let high = now > target || low >= MOST_STOPS ? low : low + STRIDE;
    for (let i = 0; i < HALVINGS && high > low; i++) {
      await pause();
      const middle = (low + high) / 2;
      if (noiseAt(group, middle) <= target) low = middle;
      else high = middle;
    }
    out[group] = low;
    await pause();
  }
  return out;
}
