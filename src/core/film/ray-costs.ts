import { RAY_COUNTERS, RAY_KINDS, TABLE } from '../kernel';
import { nonNegativeLeastSquares } from '../stats';
import type { Film } from './film';

/** Kinds of rays as their cost is told apart: shadow rays of all groups are one. */
export const COSTED_KINDS = [...RAY_KINDS, 'shadow'] as const;
/** How strongly a kind's cost is drawn to that of the mean ray where cells do not tell kinds apart. */
const RIDGE = 0.05;

/** Rays of each costed kind a pixel of a cell. */
export function raysOfCell(film: Film, t: number): number[] {
  const { w, h } = film.place(t);
  const table = film.tables(t);
  const out = RAY_KINDS.map((_, k) => table[TABLE.rays + k] / (w * h));
  let shadow = 0;
  for (let k = RAY_KINDS.length; k < RAY_COUNTERS; k++) shadow += table[TABLE.rays + k];
  return [...out, shadow / (w * h)];
}

/** Milliseconds of one thread a pixel of a cell. */
export function msOfCell(film: Film, t: number): number {
  const { w, h } = film.place(t);
  return film.tables(t)[TABLE.timeMs] / (w * h);
}

/**
 * Milliseconds a ray of each kind costs, by non-negative least squares of times on counts (`COSTED_KINDS` a row), with a
 * ridge to the mean ray's cost. Counts are the same on every machine and at every moment; times are not. Films with other
 * splits among the rows tell kinds apart that always come together in one film.
 */
export function costsOf(rows: readonly number[][], times: readonly number[]): Float64Array {
  const rays = rows.reduce((s, r) => s + r.reduce((a, v) => a + v, 0), 0);
  const mean = rays > 0 ? times.reduce((a, v) => a + v, 0) / rays : 0;
  const middle = times.reduce((a, v) => a + v, 0) / Math.max(1, times.length);
  // A cell during which the machine did something else must not weigh more for it: weights go by what the mean ray would
  // have taken.
  const weights = rows.map((r) => 1 / (r.reduce((a, v) => a + v, 0) * mean + middle * 0.1) ** 2);
  return nonNegativeLeastSquares(rows, times, { weights, ridge: RIDGE, prior: COSTED_KINDS.map(() => mean) });
}

export type TimeShares = Record<(typeof COSTED_KINDS)[number], number>;

/**
 * Share of the tracing time that rays of each kind took: counts by the cost that each kind is found to have among the film's
 * cells. Sums to 1; null before anything was traced.
 */
export function timeShares(film: Film): TimeShares | null {
  const cells = Array.from({ length: film.tileCount }, (_, t) => t).filter((t) => film.samples[t] > 0);
  const rows = cells.map((t) => raysOfCell(film, t));
  const costs = costsOf(
    rows,
    cells.map((t) => msOfCell(film, t)),
  );
  const sums = COSTED_KINDS.map((_, k) =>
    rows.reduce((sum, rays, i) => {
      const { w, h } = film.place(cells[i]);
      return sum + rays[k] * costs[k] * w * h;
    }, 0),
  );
  const whole = sums.reduce((a, b) => a + b, 0);
  if (!(whole > 0)) return null;
  return Object.fromEntries(COSTED_KINDS.map((kind, k) => [kind, sums[k] / whole])) as TimeShares;
}
