import { nonNegativeLeastSquares } from './least-squares';
import { between, type Interval, mulberry, scaledBy, widened } from './resample';

/** What can be taken more often at the first hit of a camera sample. */
export const CURES = ['diffuse', 'reflection', 'transmission', 'fog', 'light'] as const;
export type Cure = (typeof CURES)[number];
export type Counts = Record<Cure, number>;

export const ONE_EACH: Counts = { diffuse: 1, reflection: 1, transmission: 1, fog: 1, light: 1 };

/** One short render of the same patches: camera samples, counts, and what was measured in each patch. */
export interface Pilot {
  samples: number;
  counts: Counts;
  /** Mean squared displayed noise of each patch, 1 = display white. */
  squares: ArrayLike<number>;
  /** Calibrated milliseconds of one thread for each pixel of each patch. */
  ms: ArrayLike<number>;
}

/** Patches that stand for a frame: each in a stratum, with the share of the frame's pixels that it stands for. */
export interface Patches {
  stratum: ArrayLike<number>;
  weight: ArrayLike<number>;
  /**
   * What a sample cost in each patch at a first look at the whole frame, and on the mean of all. With it, times are told
   * relative to that look (the ratio estimate of Cochran, ch. 6), since costs keep their proportions. Noise does not: what
   * is hottest at first calms down most, so it is told by the strata alone.
   */
  survey?: { ms: ArrayLike<number>; whole: number };
}

/**
 * Two-stage sampling [Cochran, Sampling Techniques, ch. 10]: squared noise = N^−b · (V0 + Σ V_k·s_k^−β), milliseconds a
 * pixel = N·(c0 + Σ c_k·s_k). Plain random sampling has b = β = 1; good sequences gain more.
 */
export interface CureModel {
  b: number;
  /** Camera samples up to which that exponent was seen; beyond, noise² falls no faster than with N^−`MOST_BEYOND`. */
  seen: number;
  beta: number;
  /** Variance of one camera sample that no split cures, and that which each count cures. */
  v0: number;
  v: Counts;
  /** Milliseconds of a camera sample itself, and of each count. */
  c0: number;
  c: Counts;
}

/** A model with others fitted to resampled patches, whose spread is its uncertainty. */
export interface CureFit {
  model: CureModel;
  spread: CureModel[];
  /** What each pilot measured, told for the whole frame. */
  pilots: { samples: number; counts: Counts; squares: number; ms: number }[];
}

const BETAS = [0.6, 0.7, 0.8, 0.9, 1, 1.1, 1.2];
/** What is steep at first, since few samples leave edges to chance, evens out. */
const MOST_BEYOND = 1.05;
/** Owen's nets reach an exponent of 3 where all is smooth [Owen 1997]. */
const [LEAST_B, MOST_B] = [0.7, 3];
/** Share of all variance that camera samples alone cure is at least this: below, data cannot tell. */
const LEAST_V0 = 0.01;
const RESAMPLES = 160;
/** Relative error of a noise that the model tells, and by how much more for each e-fold of samples beyond the pilots' (one standard deviation). */
const NOISE_ERROR = 0.03;
const BEYOND_ERROR = 0.04;

function weighted(values: ArrayLike<number>, weight: ArrayLike<number>, pick: ArrayLike<number>): number {
  let sum = 0;
  let whole = 0;
  for (let i = 0; i < pick.length; i++) {
    sum += values[pick[i]] * weight[pick[i]];
    whole += weight[pick[i]];
  }
  return whole > 0 ? sum / whole : 0;
}

const isPlain = (c: Counts) => CURES.every((k) => c[k] === 1);

/** Slope of log squared noise over log samples among the pilots without splits, those of more samples weighing more. */
function exponentOf(samples: readonly number[], squares: readonly number[]): number {
  const x = samples.map(Math.log);
  const y = squares.map((q) => Math.log(Math.max(q, 1e-30)));
  const whole = samples.reduce((a, n) => a + n, 0);
  const mean = (v: number[]) => v.reduce((a, w, i) => a + w * samples[i], 0) / whole;
  const [mx, my] = [mean(x), mean(y)];
  let xy = 0;
  let xx = 0;
  x.forEach((v, i) => {
    xy += samples[i] * (v - mx) * (y[i] - my);
    xx += samples[i] * (v - mx) ** 2;
  });
  return xx > 0 ? Math.min(MOST_B, Math.max(LEAST_B, -xy / xx)) : 1;
}

/** The cures of which some pilot took more than one. */
const triedIn = (pilots: readonly Pilot[]) => CURES.filter((k) => pilots.some((p) => p.counts[k] > 1));

/** Squared noise and milliseconds a pixel of each pilot, told for the whole frame from the picked patches. */
function wholeOf(pilots: readonly Pilot[], patches: Patches, pick: ArrayLike<number>): { q: number[]; ms: number[] } {
  const { survey, weight } = patches;
  const here = survey ? weighted(survey.ms, weight, pick) : 0;
  const ratio = survey && here > 0 && survey.whole > 0 ? survey.whole / here : 1;
  return {
    q: pilots.map((p) => weighted(p.squares, weight, pick)),
    ms: pilots.map((p) => weighted(p.ms, weight, pick) * ratio),
  };
}

function fitOnce(pilots: readonly Pilot[], patches: Patches, pick: ArrayLike<number>, beta: number | null): CureModel {
  const tried = triedIn(pilots);
  const { q, ms } = wholeOf(pilots, patches, pick);
  const plain = pilots.map((p, i) => ({ p, q: q[i] })).filter(({ p }) => isPlain(p.counts));
  const b = exponentOf(
    plain.map(({ p }) => p.samples),
    plain.map((x) => x.q),
  );
  // Relative errors count alike at every noise.
  const relative = q.map((v) => 1 / Math.max(v, 1e-30) ** 2);
  const rowOf = (p: Pilot, exponent: number) => {
    const n = p.samples ** -b;
    return [n, ...tried.map((k) => n * p.counts[k] ** -exponent)];
  };
  const tries = (beta === null ? BETAS : [beta]).map((exponent) => {
    const rows = pilots.map((p) => rowOf(p, exponent));
    const x = nonNegativeLeastSquares(rows, q, { weights: relative });
    const misfit = rows.reduce(
      (s, row, i) => s + relative[i] * (q[i] - row.reduce((t, a, k) => t + a * x[k], 0)) ** 2,
      0,
    );
    return { exponent, x, misfit };
  });
  const best = tries.reduce((a, t) => (t.misfit < a.misfit ? t : a));
  const counts = (x: Float64Array): Counts =>
    Object.fromEntries(CURES.map((k) => [k, tried.includes(k) ? x[1 + tried.indexOf(k)] : 0])) as Counts;
  const v = counts(best.x);
  const all = best.x.reduce((a, y) => a + y, 0);
  const cost = nonNegativeLeastSquares(
    pilots.map((p) => [1, ...tried.map((k) => p.counts[k])]),
    pilots.map((p, i) => ms[i] / p.samples),
    { weights: pilots.map((p, i) => (p.samples / Math.max(ms[i], 1e-30)) ** 2) },
  );
  const seen = Math.max(1, ...plain.map(({ p }) => p.samples));
  return { b, seen, beta: best.exponent, v0: Math.max(best.x[0], LEAST_V0 * all), v, c0: cost[0], c: counts(cost) };
}

/**
 * Fits the model to pilots on patches; the spread comes from resampling patches within their strata with replacement
 * [Efron & Tibshirani 1993, ch. 6].
 */
export function fitCures(pilots: readonly Pilot[], patches: Patches, seed = 1): CureFit {
  const all = Array.from({ length: patches.weight.length }, (_, i) => i);
  const model = fitOnce(pilots, patches, all, null);
  const strata = new Map<number, number[]>();
  for (const i of all) {
    const own = strata.get(patches.stratum[i]);
    if (own) own.push(i);
    else strata.set(patches.stratum[i], [i]);
  }
  const random = mulberry(seed);
  const spread = Array.from({ length: RESAMPLES }, () => {
    const pick = [...strata.values()].flatMap((own) => own.map(() => own[Math.floor(random() * own.length)]));
    return fitOnce(pilots, patches, pick, model.beta);
  });
  const { q, ms } = wholeOf(pilots, patches, all);
  return {
    model,
    spread,
    pilots: pilots.map(({ samples, counts }, i) => ({ samples, counts, squares: q[i], ms: ms[i] })),
  };
}

/** The exponent by which squared noise goes on falling beyond what was seen. */
export const fallBeyond = ({ b }: Pick<CureModel, 'b'>): number => Math.min(b, MOST_BEYOND);

/** What is left of squared noise with so many samples, as a share of that with one. */
export function leftWith(m: CureModel, samples: number): number {
  return samples <= m.seen ? samples ** -m.b : m.seen ** -m.b * (samples / m.seen) ** -fallBeyond(m);
}

/** Samples with which such a share of squared noise is left; not whole. */
export function samplesLeaving(m: CureModel, left: number): number {
  const atSeen = m.seen ** -m.b;
  return left >= atSeen ? left ** (-1 / m.b) : m.seen * (atSeen / left) ** (1 / fallBeyond(m));
}

/** Squared noise (1 = display white) that a model predicts for `samples` camera samples and counts. */
export function squaresOf(m: CureModel, samples: number, counts: Counts): number {
  return leftWith(m, samples) * CURES.reduce((s, k) => s + m.v[k] * counts[k] ** -m.beta, m.v0);
}

/** Milliseconds of one thread a pixel. */
export function msOf(m: CureModel, samples: number, counts: Counts): number {
  return samples * CURES.reduce((s, k) => s + m.c[k] * counts[k], m.c0);
}

/** Noise in percent of display white and milliseconds a pixel, each with its 95 % interval. */
export interface CurePrediction {
  noise: Interval;
  ms: Interval;
}

/**
 * What a fit predicts. Where a pilot has taken just these counts, the prediction goes out from what that one measured
 * rather than from the curve near it.
 */
export function predictCure(fit: CureFit, samples: number, counts: Counts): CurePrediction {
  const here = fit.pilots.filter((p) => CURES.every((k) => p.counts[k] === counts[k])).at(-1);
  const noise = (m: CureModel) => 100 * Math.sqrt(squaresOf(m, samples, counts));
  const ms = (m: CureModel) => msOf(m, samples, counts);
  const anchor = here
    ? {
        noise: Math.sqrt(here.squares / squaresOf(fit.model, here.samples, counts)),
        ms: here.ms / msOf(fit.model, here.samples, counts),
      }
    : { noise: 1, ms: 1 };
  // Beyond what pilots have tried, the exponent is no more than a guess: rare light comes in, and smooth cells run out.
  const beyond = Math.max(0, Math.log(samples / Math.max(1, ...fit.pilots.map((p) => p.samples))));
  return {
    noise: widened(
      scaledBy(between(noise(fit.model), fit.spread.map(noise)), anchor.noise),
      Math.hypot(NOISE_ERROR, BEYOND_ERROR * beyond),
    ),
    ms: scaledBy(between(ms(fit.model), fit.spread.map(ms)), anchor.ms),
  };
}

/** What is asked for: noise at most, in percent of display white, or milliseconds of one thread a pixel at most. */
export type CureGoal = { noise: number } | { ms: number };

/** Camera samples with which counts reach a goal; not whole. */
function samplesFor(m: CureModel, goal: CureGoal, counts: Counts): number {
  if ('ms' in goal) return goal.ms / msOf(m, 1, counts);
  return samplesLeaving(m, (goal.noise / 100) ** 2 / squaresOf(m, 1, counts));
}

const MOST_COUNT = 32;
/** Fewer camera samples leave edges, lens and motion to chance. */
const LEAST_SAMPLES = 4;

/**
 * Camera samples and counts that reach a goal for the least: least time for a noise, least noise for a time. With
 * b = β = 1 the counts are near s_k = √(V_k·c0/(V0·c_k)); here they are searched, one after another, among whole numbers.
 */
export function solveCure(
  m: CureModel,
  goal: CureGoal,
  { most = 65536, counts: limits }: { most?: number; counts?: Counts } = {},
): { samples: number; counts: Counts } {
  const tried = CURES.filter((k) => m.v[k] > 0);
  const evenUp = (n: number) => Math.min(most, Math.max(LEAST_SAMPLES, 2 * Math.ceil(n / 2 - 1e-9)));
  const evenDown = (n: number) => Math.min(most, Math.max(LEAST_SAMPLES, 2 * Math.floor(n / 2 + 1e-9)));
  // Not whole while searching, so that steps of samples do not hide what a count gains.
  const badness = (counts: Counts) => {
    const n = Math.max(LEAST_SAMPLES, samplesFor(m, goal, counts));
    return 'ms' in goal
      ? squaresOf(m, n, counts) * Math.max(1, msOf(m, n, counts) / goal.ms) ** 2
      : msOf(m, n, counts) * Math.max(1, squaresOf(m, n, counts) / (goal.noise / 100) ** 2);
  };
  let counts = { ...ONE_EACH };
  let best = badness(counts);
  for (let round = 0; round < 12; round++) {
    let better = false;
    for (const k of tried)
      for (let s = 1; s <= Math.min(MOST_COUNT, limits?.[k] ?? MOST_COUNT); s++) {
        const next = { ...counts, [k]: s };
        const b = badness(next);
        if (b < best * (1 - 1e-9)) {
          counts = next;
          best = b;
          better = true;
        }
      }
    if (!better) break;
  }
  const n = samplesFor(m, goal, counts);
  return { samples: 'ms' in goal ? evenDown(n) : evenUp(n), counts };
}
