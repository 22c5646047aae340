import { TILE_PIXELS, TILE_SIZE } from '../kernel';
import type { Film } from './film';

/**
 * Mean linear red, green and blue of a cell: of the beauty, or of any two planes of three that hold halves, from `a` and
 * `b` on. Black before the first sample.
 */
export function cellMean(film: Film, t: number, a = 0, b = 3): [number, number, number] {
  const { w, h } = film.place(t);
  const src = film.floats(t);
  const out: [number, number, number] = [0, 0, 0];
  for (let c = 0; c < 3; c++) {
    let sum = 0;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = y * TILE_SIZE + x;
        sum += src[(a + c) * TILE_PIXELS + i] + src[(b + c) * TILE_PIXELS + i];
      }
    out[c] = sum / (w * h * Math.max(1, film.samples[t]));
  }
  return out;
}

/** Mean of a light group in a cell; null where the film keeps no groups or not this one. */
export function cellMeanOfGroup(film: Film, t: number, group: string): [number, number, number] | null {
  const { groups: names, planes } = film.spec;
  const g = names.indexOf(group);
  if (g < 0 || planes.groups < 0) return null;
  return cellMean(film, t, planes.groups + g * 3, planes.groups + (names.length + g) * 3);
}
