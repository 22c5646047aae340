/** Seconds, with the interval that they lie in nineteen times of twenty. */
export interface TimeLeft {
  value: number;
  low: number;
  high: number;
}

/** Fewest delivered frames of which the others' times are told. */
export const LEAST_DELIVERED = 3;

/** Two-sided 95 % quantiles of Student's t by degrees of freedom from 1 on. */
const T95 = [12.71, 4.3, 3.18, 2.78, 2.57, 2.45, 2.36, 2.31, 2.26, 2.23, 2.2, 2.18, 2.16, 2.14, 2.13];
const quantile = (freedom: number) => T95[freedom - 1] ?? 1.96 + 2.4 / freedom;

/** How far the speed of a machine drifts from one hour to the next, nineteen times of twenty, as a share. */
const DRIFT = 0.3;

export interface Delivered {
  frame: number;
  /** By the clock, from taking it up to its files being there. */
  seconds: number;
}

/** A frame that is not delivered, and the part of its work that is left: 1 = all of it. */
export interface Left {
  frame: number;
  part: number;
}

/** What lies at a frame between the known ones about it, which are in rising order; the nearest one's value beyond the ends. */
function between<T extends { frame: number }>(known: readonly T[], frame: number, valued: (at: T) => number): number {
  const after = known.findIndex((k) => k.frame >= frame);
  if (after === 0) return valued(known[0]);
  if (after < 0) return valued(known[known.length - 1]);
  const [a, b] = [known[after - 1], known[after]];
  return valued(a) + ((valued(b) - valued(a)) * (frame - a.frame)) / (b.frame - a.frame);
}

const seconds = (d: Delivered) => d.seconds;
const rising = <T extends { frame: number }>(list: readonly T[]): T[] => [...list].sort((a, b) => a.frame - b.frame);

/**
 * Seconds of work that frames take which are not delivered yet: each as those about it took. How far that may be off is told by
 * leaving out each delivered frame in turn: of the mean of the others as much as of all frames' own scatter. What all of them have in
 * common does not show in that: a machine drifts, the less the more of the time has been seen. Null before `LEAST_DELIVERED`
 * frames are there.
 */
export function workLeft(delivered: readonly Delivered[], left: readonly Left[]): TimeLeft | null {
  if (left.length === 0) return { value: 0, low: 0, high: 0 };
  if (delivered.length < LEAST_DELIVERED) return null;
  const known = rising(delivered);
  const value = left.reduce((sum, l) => sum + l.part * between(known, l.frame, seconds), 0);
  const off = known.map((k, i) => {
    const others = known.filter((_, j) => j !== i);
    return k.seconds / between(others, k.frame, seconds) - 1;
  });
  const n = off.length;
  const mean = off.reduce((a, b) => a + b, 0) / n;
  const spread = Math.sqrt(off.reduce((a, b) => a + (b - mean) ** 2, 0) / (n - 1));
  const scatter = quantile(n - 1) * spread * Math.sqrt(1 / n + 1 / left.length);
  const parts = left.reduce((sum, l) => sum + l.part, 0);
  const reach = Math.hypot(scatter, (DRIFT * parts) / (parts + n));
  return { value, low: value * Math.max(0, 1 - reach), high: value * (1 + reach) };
}

/** Seconds that frames take before any is delivered: between those of a few that were told, and what each takes beside tracing. */
export function workAhead(
  told: readonly { frame: number; seconds: TimeLeft }[],
  frames: readonly number[],
  fixedSeconds: number,
): TimeLeft {
  const known = rising(told);
  const sum = (part: keyof TimeLeft) =>
    frames.reduce((s, f) => s + fixedSeconds + between(known, f, (k) => k.seconds[part]), 0);
  return { value: sum('value'), low: sum('low'), high: sum('high') };
}

/** Most workers that are thought of. */
const MOST_WORKERS = 64;

/** Whether something is done in time, or may be, or is not; by how many seconds, surely; and how many workers would do it surely. */
export interface InTime {
  is: 'in time' | 'open' | 'late';
  /** To spare at least; late at most where it is open; late at least. */
  seconds: number;
  /** Null where it is in time, and where no number of workers is enough. */
  needed: number | null;
}

/** Holds the time that is left on so many workers against that in which it is wanted. */
export function inTime(leftOn: (workers: number) => TimeLeft, within: number, workers: number): InTime {
  const { low, high } = leftOn(workers);
  if (high <= within) return { is: 'in time', seconds: within - high, needed: null };
  let needed: number | null = null;
  for (let w = workers + 1; w <= MOST_WORKERS && needed === null; w++) if (leftOn(w).high <= within) needed = w;
  return low > within ? { is: 'late', seconds: low - within, needed } : { is: 'open', seconds: high - within, needed };
}

/** The sum of times, each with its interval, whose errors may go the same way. */
export const summed = (times: readonly TimeLeft[]): TimeLeft =>
  times.reduce((a, b) => ({ value: a.value + b.value, low: a.low + b.low, high: a.high + b.high }), {
    value: 0,
    low: 0,
    high: 0,
  });

/** Seconds until work is done that so many workers share: no less than the frames' whole rounds allow. */
export function timeLeft(work: TimeLeft, frames: number, workers: number): TimeLeft {
  if (frames === 0) return work;
  const share = Math.max(1 / workers, Math.ceil(frames / workers) / frames);
  return { value: work.value * share, low: work.low * share, high: work.high * share };
}
