import type { Question } from './question';
import { filmOfA } from './stack-film';

/** How far away what A shows is. */
export interface Depths {
  /** Metres of the nearest and the farthest, what has no end left out. */
  low: number;
  high: number;
  /** Shares of the pixels between them, evenly spread over the logarithm. */
  bins: number[];
}

const BINS = 96;

/** How many pixels of A lie how far away, by its depth; null where it has none, or nothing is there. */
export const depths: Question<Record<string, never>, Depths | null> = async (desk) => {
  const { film } = await filmOfA(desk, ['beauty', 'depth']);
  const plane = film.layers.get('depth')?.planes[0];
  if (!plane) return null;
  let [low, high] = [Number.POSITIVE_INFINITY, 0];
  for (const z of plane)
    if (z > 0 && z < Number.POSITIVE_INFINITY) {
      if (z < low) low = z;
      if (z > high) high = z;
    }
  if (high === 0) return null;
  const bins = new Array<number>(BINS).fill(0);
  const scale = high > low ? BINS / Math.log(high / low) : 0;
  for (const z of plane)
    if (z >= low && z <= high) bins[Math.min(BINS - 1, Math.floor(Math.log(z / low) * scale))] += 1 / plane.length;
  return { low, high, bins };
};
