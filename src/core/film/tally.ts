import { luminance } from '../image';
import { LAYER, layerInfo } from './catalogue';
import type { FilmLayers, Layer } from './layers';

/** Families whose layers sum to the beauty. */
export const PARTINGS = ['group', 'class', 'bounce'] as const;
export type Parting = (typeof PARTINGS)[number];

/** How well parts sum to the beauty. Errors are relative to max(beauty, mean beauty / 100). */
export interface Tally {
  parts: string[];
  maxError: number;
  rmsError: number;
  /** RMS error in decibels, −Infinity when exact. */
  decibels: number;
  /** Share of the beauty's light that is in none of the parts, by luminance; negative where they have more. */
  missing: number;
  /** Error of each pixel. */
  map: Float32Array;
}

/** Largest error at which a tally counts as adding up, by how the planes were stored. */
export const TALLY_LIMITS = { float: 1e-5, half: 4e-3 } as const;

/** The layers that make up a parting, its remainder too, in the film's order. */
export function partsOf(film: FilmLayers, parting: Parting): Layer[] {
  return [...film.layers.values()].filter(
    (l) => layerInfo(l.name).family === parting || l.name === LAYER.rest(parting),
  );
}

/** Checks that the parts of one kind sum to the beauty. Null when the film lacks parts or beauty. */
export function tally(film: FilmLayers, parting: Parting): Tally | null {
  const beauty = film.layers.get('beauty');
  const parts = partsOf(film, parting);
  if (!beauty || parts.length === 0) return null;
  const size = film.width * film.height;
  let total = 0;
  for (let i = 0; i < size; i++) total += luminance(beauty.planes[0][i], beauty.planes[1][i], beauty.planes[2][i]);
  const floor = Math.max(total / size / 100, 1e-20);
  const map = new Float32Array(size);
  let max = 0;
  let squares = 0;
  let found = 0;
  const sums = [0, 0, 0];
  for (let i = 0; i < size; i++) {
    let worst = 0;
    for (let c = 0; c < 3; c++) {
      let sum = 0;
      for (const part of parts) sum += part.planes[c][i];
      sums[c] = sum;
      const b = beauty.planes[c][i];
      worst = Math.max(worst, Math.abs(sum - b) / Math.max(b, floor));
    }
    found += luminance(sums[0], sums[1], sums[2]);
    map[i] = worst;
    max = Math.max(max, worst);
    squares += worst * worst;
  }
  const rms = Math.sqrt(squares / size);
  return {
    parts: parts.map((p) => p.name),
    maxError: max,
    rmsError: rms,
    decibels: 20 * Math.log10(rms),
    missing: total > 0 ? 1 - found / total : 0,
    map,
  };
}
