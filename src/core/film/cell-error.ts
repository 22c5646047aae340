import type { Display } from '../image';
import { TABLE, TILE_PIXELS, TILE_SIZE } from '../kernel';
import { cellGrain, cellNoise, cellWeight2 } from '../stats';
import type { Film } from './film';
import { type Factors, factorOf } from './relight';

/**
 * Noise of a cell in percent of display white, from an even number of samples: of the beauty, or the worst of it and
 * each light group by itself, which may be lifted later.
 */
export function cellError(film: Film, t: number, exposure: Display, watch: 'beauty' | 'groups'): number {
  const { w, h } = film.place(t);
  const n = film.samples[t];
  const floats = film.floats(t);
  const of = (a: number, b: number) => cellNoise({ tile: floats, stride: TILE_SIZE, w, h, n, a, b }, exposure);
  let worst = of(0, 3);
  const { groups } = film.spec.planes;
  if (watch === 'groups' && groups >= 0) {
    const count = film.spec.groups.length;
    for (let g = 0; g < count; g++) worst = Math.max(worst, of(groups + g * 3, groups + (count + g) * 3));
  }
  return worst;
}

/** Squared weight by which the noise of a cell's linear light is seen. */
export function seenWeight2(film: Film, t: number, exposure: Display): number {
  const { w, h } = film.place(t);
  return cellWeight2({ tile: film.floats(t), stride: TILE_SIZE, w, h, n: film.samples[t] }, exposure);
}

/** Squared grain of a cell's beauty, from an even number of samples (see `cellGrain`). */
export function grainOf(film: Film, t: number, exposure: Display): number {
  const { w, h } = film.place(t);
  return cellGrain({ tile: film.floats(t), stride: TILE_SIZE, w, h, n: film.samples[t] }, exposure);
}

/** Rays that a sample of a pixel takes in a cell: what it costs, whatever machine counts. */
export function raysPerSample(film: Film, t: number): number {
  const { w, h } = film.place(t);
  const table = film.tables(t);
  let rays = 0;
  for (let k = TABLE.rays; k < TABLE.total; k++) rays += table[k];
  return rays / Math.max(1, w * h * film.samples[t]);
}

/** The same of the cell with its light groups at these factors. The beauty's where no groups are kept. */
export function cellErrorRelit(film: Film, t: number, exposure: Display, factors: Factors): number {
  const { groups } = film.spec.planes;
  const names = film.spec.groups;
  if (groups < 0) return cellError(film, t, exposure, 'beauty');
  const { w, h } = film.place(t);
  const floats = film.floats(t);
  const relit = new Float32Array(6 * TILE_PIXELS);
  names.forEach((name, g) => {
    const factor = factorOf(factors, name);
    for (let half = 0; half < 2; half++)
      for (let c = 0; c < 3; c++) {
        const [from, to] = [(groups + (half * names.length + g) * 3 + c) * TILE_PIXELS, (half * 3 + c) * TILE_PIXELS];
        for (let i = 0; i < TILE_PIXELS; i++) relit[to + i] += floats[from + i] * factor[c];
      }
  });
  return cellNoise({ tile: relit, stride: TILE_SIZE, w, h, n: film.samples[t] }, exposure);
}
