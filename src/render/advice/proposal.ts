import { parseRecipe, type Recipe } from '@/core/recipe';
import {
  type Counts,
  CURES,
  type CureGoal,
  fallBeyond,
  type Interval,
  leftWith,
  ONE_EACH,
  samplesLeaving,
  scaledBy,
  solveCure,
  widened,
} from '@/core/stats';
import { LEAST_OF_EVEN, MOST_OF_EVEN } from './bounds';
import { type Pilots, withCounts } from './pilots';

/** What is wanted of a recipe: noise at most, in percent, or seconds at speed 1 on so many threads. */
export type Goal = { noise: number } | { seconds: number };

/** Noise in percent and seconds at speed 1, each with its 95 % interval. */
export interface Prediction {
  noise: Interval;
  seconds: Interval;
}

export interface Proposal {
  recipe: Recipe;
  predicted: Prediction;
  /** The same goal by camera samples alone, everywhere alike. */
  uniform: { samples: number; predicted: Prediction };
}

const MOST_ROUNDS = 3;
/** Dealing out is proposed from this gain on: below it the estimate is no more than luck. */
const WORTH_DEALING = 0.93;
/** Relative error of the estimate of what dealing out saves (one standard deviation). */
const DEALING_ERROR = 0.14;
/** Where cells have more samples than they need at the least, the noise ends below what the recipe stops at. */
const LEAST_OF_STOP = 0.91;
const MOST_OF_STOP = 1.06;

/** Twice what has been tried of each count: the model is no more than a guess further on. */
const beyondTried = (pilots: Pilots): Counts =>
  Object.fromEntries(CURES.map((k) => [k, 2 * Math.max(1, ...pilots.counts.map((c) => c[k]))])) as Counts;

const MOST_SAMPLES = 65536;
const even = (n: number) => Math.min(MOST_SAMPLES, Math.max(4, 2 * Math.round(n / 2)));

/** Samples that reach a goal with counts by the prediction for them, and its worth: the smaller the better. */
function reach(pilots: Pilots, goal: CureGoal, counts: Counts): { samples: number; badness: number } {
  const { model } = pilots.fit;
  const one = pilots.predict(1, counts);
  const squares = (one.noise.value / 100) ** 2;
  if ('ms' in goal) {
    const samples = Math.min(MOST_SAMPLES, Math.max(4, 2 * Math.floor(goal.ms / one.ms.value / 2 + 1e-9)));
    return {
      samples,
      badness: squares * leftWith(model, samples) * Math.max(1, (samples * one.ms.value) / goal.ms) ** 2,
    };
  }
  const samples = Math.min(
    MOST_SAMPLES,
    Math.max(4, 2 * Math.ceil(samplesLeaving(model, (goal.noise / 100) ** 2 / squares) / 2)),
  );
  return { samples, badness: samples * one.ms.value };
}

/** A recipe's noise and time, on so many threads. */
export function predict(pilots: Pilots, samples: number, counts: Counts, threads: number): Prediction {
  const { noise, ms } = pilots.predict(samples, counts);
  return { noise, seconds: scaledBy(ms, pilots.pixels / threads / 1000) };
}

/**
 * What a recipe comes to. One that stops at a noise is told by the samples that reach it, between its least and most, and
 * by what dealing them out saves; cells that each stop by themselves are taken as if all had as many.
 */
export function predictRecipe(pilots: Pilots, recipe: Recipe, counts: Counts, threads: number): Prediction {
  const { cameraMin, cameraMax, stopNoise, adapt } = recipe.sampling;
  if (stopNoise === 0) return predict(pilots, cameraMax, counts, threads);
  const { samples } = reach(pilots, { noise: stopNoise }, counts);
  const n = Math.min(cameraMax, Math.max(cameraMin, samples));
  const plain = predict(pilots, n, counts, threads);
  if (adapt === 'even' || n < samples) return plain;
  return {
    ...plain,
    seconds: widened(scaledBy(plain.seconds, pilots.dealtOut(n, counts, cameraMin, cameraMax).expected), DEALING_ERROR),
  };
}

/**
 * The recipe that reaches a goal for the least. What the model proposes is tried on the patches, and the model fitted anew,
 * until it proposes what has been tried; of all that was tried the best is taken.
 */
export async function propose(pilots: Pilots, recipe: Recipe, goal: Goal, threads: number): Promise<Proposal> {
  const asked: CureGoal =
    'noise' in goal ? { noise: goal.noise } : { ms: (goal.seconds * threads * 1000) / pilots.pixels };
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const { counts } = solveCure(pilots.fit.model, asked, { counts: beyondTried(pilots) });
    if (!(await pilots.tryCounts(counts))) break;
  }
  const all = [ONE_EACH, ...pilots.counts].map((counts) => ({ counts, ...reach(pilots, asked, counts) }));
  const best = all.reduce((a, c) => (c.badness < a.badness ? c : a));
  const [least, most] = [even(best.samples * LEAST_OF_EVEN), even(best.samples * MOST_OF_EVEN)];
  const { promised, expected: saved } = pilots.dealtOut(best.samples, best.counts, least, most);
  const plain = predict(pilots, best.samples, best.counts, threads);
  const alone = reach(pilots, asked, ONE_EACH);
  const uniform = { samples: alone.samples, predicted: predict(pilots, alone.samples, ONE_EACH, threads) };
  // Out of reach of any count of samples, the most are taken, everywhere alike.
  const beyond = 'noise' in goal && plain.noise.value > goal.noise * 1.05;
  // Samples are dealt out by the picture as it is: for a mood they are wanted elsewhere.
  // What is expected of it may be nothing, and yet it is proposed: its noise is what it stops at.
  if (promised > WORTH_DEALING || beyond || pilots.mood)
    return { recipe: withCounts(recipe, best.samples, best.counts), predicted: plain, uniform };
  return { ...dealt(pilots, recipe, goal, best, { least, most, saved }, plain), uniform };
}

/** The proposal with samples dealt out by need: its noise is what it stops at. */
function dealt(
  pilots: Pilots,
  recipe: Recipe,
  goal: Goal,
  best: { samples: number; counts: Counts },
  { least, most, saved }: { least: number; most: number; saved: number },
  plain: Prediction,
): Omit<Proposal, 'uniform'> {
  // Within a time, what dealing out saves buys less noise.
  const lower = 'noise' in goal ? 1 : saved ** (fallBeyond(pilots.fit.model) / 2);
  const stop = 'noise' in goal ? goal.noise : plain.noise.value * lower;
  const stopNoise = Number(Math.min(100, Math.max(0.01, stop)).toPrecision(3));
  const cost = 'noise' in goal ? saved * (plain.noise.value / stop) ** (2 / fallBeyond(pilots.fit.model)) : 1;
  const even = withCounts(recipe, best.samples, best.counts);
  return {
    recipe: parseRecipe({
      ...even,
      sampling: { ...even.sampling, adapt: 'cheapest', stopNoise, cameraMin: least, cameraMax: most },
    }),
    predicted: {
      noise: {
        value: stopNoise,
        low: stopNoise * LEAST_OF_STOP,
        high: stopNoise * Math.min(MOST_OF_STOP, plain.noise.high / plain.noise.value),
      },
      seconds: widened(scaledBy(plain.seconds, cost), DEALING_ERROR),
    },
  };
}
