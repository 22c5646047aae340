/** A value with its 95 % interval. */
export interface Interval {
  value: number;
  low: number;
  high: number;
}

/** Even random numbers in [0, 1) from a seed [mulberry32, T. Ettinger]; for resampling only. */
export function mulberry(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), a | 1);
    t = (t + Math.imul(t ^ (t >>> 7), t | 61)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A value with the middle 95 % of its resampled twins; the interval holds the value itself. */
export function between(value: number, twins: readonly number[]): Interval {
  const sorted = [...twins].sort((a, b) => a - b);
  const at = (f: number) => sorted[Math.min(sorted.length - 1, Math.max(0, Math.round(f * (sorted.length - 1))))];
  if (sorted.length === 0) return { value, low: value, high: value };
  return { value, low: Math.min(value, at(0.025)), high: Math.max(value, at(0.975)) };
}

/** A value without uncertainty. */
export const exactly = (value: number): Interval => ({ value, low: value, high: value });

export const scaledBy = (i: Interval, k: number): Interval => ({
  value: i.value * k,
  low: i.low * k,
  high: i.high * k,
});

/** The interval widened by an independent relative error (one standard deviation). */
export function widened(i: Interval, relative: number): Interval {
  const more = 1.96 * relative * i.value;
  return {
    value: i.value,
    low: Math.max(0, i.value - Math.hypot(i.value - i.low, more)),
    high: i.value + Math.hypot(i.high - i.value, more),
  };
}
