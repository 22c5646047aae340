import { LEDGER_PLANES, LIMIT_KINDS, OBJECT_COLUMNS, PATH_CLASSES, TABLE, TABLED_OBJECTS } from '../kernel';
import type { Film } from './film';

/** Share of the noise (variance) that each source causes; sums to 1, small negative ones are real. */
export interface NoiseShares {
  groupClass: { group: string; pathClass: string; share: number }[];
  classBounce: { pathClass: string; bounce: number; share: number }[];
}

/**
 * Noise shares from the films' tables: Σ_cells w²K_j/N² ÷ Σ_cells w²K/N², `slope2` = w² of each cell.
 * Null before any pair of samples has been seen.
 */
export function noiseShares(film: Film, slope2: (tile: number) => number): NoiseShares | null {
  const { groups } = film.spec;
  const sources = new Float64Array(TABLE.rays);
  let whole = 0;
  for (let t = 0; t < film.tileCount; t++) {
    const n = film.samples[t];
    if (n < 2) continue;
    const table = film.tables(t);
    const k = slope2(t) / (n * n);
    whole += k * table[TABLE.total];
    for (let i = 0; i < TABLE.rays; i++) if (table[i] !== 0) sources[i] += k * table[i];
  }
  if (!(whole > 0)) return null;
  return {
    groupClass: groups.flatMap((group, g) =>
      PATH_CLASSES.map((pathClass, c) => ({ group, pathClass, share: sources[g * PATH_CLASSES.length + c] / whole })),
    ),
    classBounce: PATH_CLASSES.flatMap((pathClass, c) =>
      Array.from({ length: LEDGER_PLANES }, (_, bounce) => ({
        pathClass,
        bounce,
        share: sources[TABLE.classBounce + c * LEDGER_PLANES + bounce] / whole,
      })),
    ),
  };
}

/** What causes what among the objects that camera rays hit first. Each column sums to 1, but for `lost`. */
export interface ObjectShare {
  /** Name; null for all that is told apart no further: sky, light shapes, objects beyond the 255th. */
  object: string | null;
  /** Share of the noise (variance), of the light in the picture, of all rays. */
  noise: number;
  light: number;
  rays: number;
  /** Light that limits kept away, as a multiple of the light in the picture. */
  lost: number;
}

/** Shares by object of the first hit, those with none left out; `slope2` weighs cells as for `noiseShares`. Null without samples. */
export function objectShares(film: Film, slope2: (tile: number) => number): ObjectShare[] | null {
  const rows = TABLED_OBJECTS + 1;
  const columns = OBJECT_COLUMNS.length;
  const sums = new Float64Array(rows * columns);
  for (let t = 0; t < film.tileCount; t++) {
    const n = film.samples[t];
    if (n === 0) continue;
    const table = film.tables(t);
    const weights = [n < 2 ? 0 : slope2(t) / (n * n), 1 / n, 1, 1 / n];
    for (let i = 0; i < sums.length; i++) {
      const v = table[TABLE.objects + i];
      if (v !== 0) sums[i] += v * weights[i % columns];
    }
  }
  const total = [0, 1, 2].map((c) => {
    let sum = 0;
    for (let r = 0; r < rows; r++) sum += sums[r * columns + c];
    return sum;
  });
  if (!(total[2] > 0)) return null;
  const share = (r: number, c: number, of: number) => (of === 0 ? 0 : sums[r * columns + c] / of);
  return Array.from({ length: rows }, (_, r) => ({
    object: r < TABLED_OBJECTS ? (film.spec.coverage[r] ?? null) : null,
    noise: share(r, 0, total[0]),
    light: share(r, 1, total[1]),
    rays: share(r, 2, total[2]),
    lost: share(r, 3, total[1]),
  })).filter((row) => row.rays > 0);
}

/** Which kind of limit keeps how much of the lost light away; null when none was found. */
export function limitShares(film: Film): Record<(typeof LIMIT_KINDS)[number], number> | null {
  const sums = film.tableSums(TABLE.lost, LIMIT_KINDS.length);
  const whole = sums.reduce((a, b) => a + b, 0);
  if (!(whole > 0)) return null;
  return Object.fromEntries(LIMIT_KINDS.map((kind, i) => [kind, sums[i] / whole])) as Record<
    (typeof LIMIT_KINDS)[number],
    number
  >;
}
