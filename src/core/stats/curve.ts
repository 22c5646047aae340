import type { Interval } from './resample';

/**
 * A value at some samples: read between those tried, or beyond them by their first or last fall, along straight lines of
 * logarithms. `tried` grows and has at least two.
 */
export function readAt(tried: readonly number[], values: readonly number[], samples: number): number {
  const logs = values.map((v) => Math.log(Math.max(v, 1e-12)));
  const beyond = tried.findIndex((n) => n >= samples);
  const k = beyond === -1 ? tried.length - 1 : Math.max(1, beyond);
  const t = (Math.log(samples) - Math.log(tried[k - 1])) / (Math.log(tried[k]) - Math.log(tried[k - 1]));
  return Math.exp(logs[k - 1] + t * (logs[k] - logs[k - 1]));
}

/** An interval read in the same way; null beyond what was told of. */
export function intervalAt(tried: readonly number[], told: readonly Interval[], samples: number): Interval | null {
  if (samples < tried[0] || samples > tried[tried.length - 1]) return null;
  const at = (key: keyof Interval) =>
    readAt(
      tried,
      told.map((i) => i[key]),
      samples,
    );
  return { value: at('value'), low: at('low'), high: at('high') };
}
