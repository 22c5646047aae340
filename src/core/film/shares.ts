import { type Display, displaySlope } from '../image';
import { LEDGER_PLANES, LIMIT_KINDS, OBJECT_COLUMNS, PATH_CLASSES, TABLE, TABLED_OBJECTS } from '../kernel';
import type { Film } from './film';

/** Share of the noise (variance) that each source causes; sums to 1, small negative ones are real. */
export interface NoiseShares {
  groupClass: { group: string; pathClass: string; share: number }[];
  classBounce: { pathClass: string; bounce: number; share: number }[];
}

/**
 * Noise shares from the films' tables: Σ_cells w²K_j/N² ÷ Σ_cells w²K/N², `weight2` = w² of each cell.
 * Null before any pair of samples has been seen.
 */
export function noiseShares(film: Film, weight2: (tile: number) => number): NoiseShares | null {
  const { groups } = film.spec;
  const sources = new Float64Array(TABLE.rays);
  let whole = 0;
  for (let t = 0; t < film.tileCount; t++) {
    const n = film.samples[t];
    if (n < 2) continue;
    const table = film.tables(t);
    const k = weight2(t) / (n * n);
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

/**
 * Shares by object of the first hit, those with none left out. Null without samples. `weight2` weighs cells as for `noiseShares`;
 * within a cell objects' noise is weighed by how it is seen at their own brightness, so that a dark thing before a bright
 * one has what the eye gives it: shares of the printed noise.
 */
export function objectShares(film: Film, weight2: (tile: number) => number, exposure: Display): ObjectShare[] | null {
  const rows = TABLED_OBJECTS + 1;
  const columns = OBJECT_COLUMNS.length;
  const [NOISE, LIGHT, RAYS, LOST, SAMPLES] = [0, 1, 2, 3, 4];
  const sums = new Float64Array(rows * columns);
  const seen = new Float64Array(rows);
  for (let t = 0; t < film.tileCount; t++) {
    const n = film.samples[t];
    if (n === 0) continue;
    const table = film.tables(t);
    const at = (r: number, c: number) => table[TABLE.objects + r * columns + c];
    let [plain, weighed] = [0, 0];
    for (let r = 0; r < rows; r++) {
      const samples = at(r, SAMPLES);
      if (samples === 0) continue;
      sums[r * columns + LIGHT] += at(r, LIGHT) / n;
      sums[r * columns + RAYS] += at(r, RAYS);
      sums[r * columns + LOST] += at(r, LOST) / n;
      const slope = at(r, NOISE) === 0 ? 0 : displaySlope(at(r, LIGHT) / samples, exposure);
      seen[r] = slope * slope * at(r, NOISE);
      plain += at(r, NOISE);
      weighed += seen[r];
    }
    if (n < 2) continue;
    // The cell's own noise, dealt out by what its objects bring to it.
    const k = weighed > 0 ? (weight2(t) * plain) / (n * n) / weighed : 0;
    for (let r = 0; r < rows; r++) {
      sums[r * columns + NOISE] += k * seen[r];
      seen[r] = 0;
    }
  }
  const total = [NOISE, LIGHT, RAYS].map((c) => {
    let sum = 0;
    for (let r = 0; r < rows; r++) sum += sums[r * columns + c];
    return sum;
  });
  if (!(total[RAYS] > 0)) return null;
  const share = (r: number, c: number, of: number) => (of === 0 ? 0 : sums[r * columns + c] / of);
  return Array.from({ length: rows }, (_, r) => ({
    object: r < TABLED_OBJECTS ? (film.spec.coverage[r] ?? null) : null,
    noise: share(r, NOISE, total[NOISE]),
    light: share(r, LIGHT, total[LIGHT]),
    rays: share(r, RAYS, total[RAYS]),
    lost: share(r, LOST, total[LIGHT]),
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
