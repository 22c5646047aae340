import type { Display } from '../image';
import { TABLE, TILE_SIZE } from '../kernel';
import { cellNoise } from '../stats';
import type { Film } from './film';

/**
 * Noise of a cell in percent of display white, from an even number of samples: of the beauty, or the worst of it and
 * each light group by itself, which may be lifted later.
 */
export function cellError(film: Film, t: number, exposure: Display, watch: 'beauty' | 'groups'): number {
  const { w, h } = film.place(t);
  const n = film.samples[t];
  const floats = film.floats(t);
  const of = (a: number, b: number) => cellNoise(floats, TILE_SIZE, w, h, n, exposure, a, b);
  let worst = of(0, 3);
  const { groups } = film.spec.planes;
  if (watch === 'groups' && groups >= 0) {
    const count = film.spec.groups.length;
    for (let g = 0; g < count; g++) worst = Math.max(worst, of(groups + g * 3, groups + (count + g) * 3));
  }
  return worst;
}

/** Rays that a sample of a pixel takes in a cell: what it costs, whatever machine counts. */
export function raysPerSample(film: Film, t: number): number {
  const { w, h } = film.place(t);
  const table = film.tables(t);
  let rays = 0;
  for (let k = TABLE.rays; k < TABLE.total; k++) rays += table[k];
  return rays / Math.max(1, w * h * film.samples[t]);
}
