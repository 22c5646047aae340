import type { Interval } from './resample';

/** What one frame of a sequence was measured to come to, by samples a pixel; seconds of tracing on one worker. */
export interface KeyFrame {
  frame: number;
  /** By rising samples: noise in percent of display white. */
  table: { samples: number; noise: Interval; seconds: Interval }[];
}

export interface Sequence {
  first: number;
  last: number;
  /** Measured frames; those between are taken to lie between. */
  keys: readonly KeyFrame[];
  /** Seconds a frame takes beside tracing: loading, writing. */
  fixedSeconds: number;
  /** Workers that render frames at the same time. */
  workers: number;
}

const PARTS = ['value', 'low', 'high'] as const;

function mixed(a: Interval, b: Interval, t: number, mix: (x: number, y: number, t: number) => number): Interval {
  const [value, low, high] = PARTS.map((k) => mix(a[k], b[k], t));
  return { value, low, high };
}

const linear = (x: number, y: number, t: number) => x + (y - x) * t;
const geometric = (x: number, y: number, t: number) => (x > 0 && y > 0 ? x * (y / x) ** t : linear(x, y, t));

/** Noise and seconds at a sample count: along powers between the counts of the table and beyond its ends. */
function at({ table }: KeyFrame, samples: number): { noise: Interval; seconds: Interval } {
  const i = Math.min(
    table.length - 2,
    Math.max(
      0,
      table.findLastIndex((r) => r.samples <= samples),
    ),
  );
  if (table.length === 1) return table[0];
  const [a, b] = [table[i], table[i + 1]];
  const t = Math.log(samples / a.samples) / Math.log(b.samples / a.samples);
  return { noise: mixed(a.noise, b.noise, t, geometric), seconds: mixed(a.seconds, b.seconds, t, geometric) };
}

/** A frame's own seconds from those of the measured frames about it. */
function between(keys: readonly { frame: number; seconds: Interval }[], frame: number): Interval {
  const after = keys.findIndex((k) => k.frame >= frame);
  if (after === 0) return keys[0].seconds;
  if (after < 0) return keys[keys.length - 1].seconds;
  const [a, b] = [keys[after - 1], keys[after]];
  return mixed(a.seconds, b.seconds, (frame - a.frame) / (b.frame - a.frame), linear);
}

/**
 * Seconds until all frames are rendered: Σ (fixed + trace) ÷ workers, and not less than whole rounds of frames allow. Errors of
 * the measured frames are taken to go the same way in all.
 */
export function sequenceSeconds(s: Sequence, seconds: readonly Interval[]): Interval {
  const keys = s.keys.map((k, i) => ({ frame: k.frame, seconds: seconds[i] })).sort((a, b) => a.frame - b.frame);
  const count = s.last - s.first + 1;
  const sum = { value: 0, low: 0, high: 0 };
  for (let f = s.first; f <= s.last; f++) {
    const own = between(keys, f);
    for (const k of PARTS) sum[k] += s.fixedSeconds + own[k];
  }
  // The last round may leave workers idle.
  const rounds = Math.ceil(count / s.workers);
  const k = Math.max(1 / s.workers, rounds / count);
  return { value: sum.value * k, low: sum.low * k, high: sum.high * k };
}

export interface Affordable {
  samples: number;
  /** Of the noisiest measured frame. */
  noise: Interval;
  seconds: Interval;
}

const [LEAST, MOST] = [2, 65536];

/** The most samples with which a sequence is done within some seconds; null when even the least take longer. */
export function affordable(s: Sequence, available: number): Affordable | null {
  const of = (samples: number): Affordable => {
    const all = s.keys.map((k) => at(k, samples));
    const noise = all.reduce((worst, a) => (a.noise.value > worst.value ? a.noise : worst), all[0].noise);
    const seconds = sequenceSeconds(
      s,
      all.map((a) => a.seconds),
    );
    return { samples, noise, seconds };
  };
  if (of(LEAST).seconds.value > available) return null;
  let [low, high] = [LEAST / 2, MOST / 2 + 1];
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (of(2 * middle).seconds.value <= available) low = middle;
    else high = middle;
  }
  return of(2 * low);
}

/** Seconds from a moment until the next time the clock shows hours and minutes ("08:00"); null when that is no time of day. */
export function secondsUntil(time: string, now: Date): number | null {
  const m = /^(\d{1,2}):(\d{2})$/.exec(time.trim());
  if (!m || Number(m[1]) > 23 || Number(m[2]) > 59) return null;
  const then = new Date(now);
  then.setHours(Number(m[1]), Number(m[2]), 0, 0);
  if (then <= now) then.setDate(then.getDate() + 1);
  return (then.getTime() - now.getTime()) / 1000;
}
