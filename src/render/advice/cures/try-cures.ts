import {
  cellError,
  cellMean,
  cellMeanOfGroup,
  costsOf,
  type Film,
  grainOf,
  measureFilm,
  msOfCell,
  raysOfCell,
} from '@/core/film';
import { type Display, displayOf, displayValue, luminance } from '@/core/image';
import { BEAUTY_ALONE, parseRecipe, type Recipe } from '@/core/recipe';
import type { Camera, Scene, SceneDocument } from '@/core/scene';
import { between, exactly, type Interval, mulberry, scaledBy, widened } from '@/core/stats';
import type { RenderPool } from '../../pool/pool';
import type { SmallPicture } from '../../views/place';
import { survey } from '../diagnosis/survey';
import { cameraOf, type Patient } from '../patient';
import { PilotsStopped } from '../pilots';
import type { Prediction } from '../proposal';
import { cropOf, noisiest } from './crop';
import { recipeIdeas } from './ideas';
import { apart, MATCHED_GROUP, type SceneIdea, sceneIdeas } from './scene-ideas';

/** A cure as it was measured on patches of the picture or region. */
export interface TriedCure {
  code: string;
  words: string;
  /** What is done to the scene, step by step; empty for a setting of the recipe. */
  steps: string[];
  /** Against the picture as it stands at the same samples: grain (see `cellGrain`), time, and what both come to. */
  grain: number;
  time: number;
  efficiency: number;
  /** How far the patches' means are from what they were, in percent of display white, noise taken off. */
  look: number;
  /** Mean luminance of the patches in nits, for changes of the scene without outlier limits; whether a strength keeps it. */
  nits: { before: number; after: number };
  matched: boolean;
  recipe: Recipe;
  /** The scene with all steps made; null where the recipe alone changes. */
  document: SceneDocument | null;
  /** What the recipe comes to with it, on so many threads. */
  predicted: Prediction;
  /** The noisiest patches with it, at the samples they were tried with. */
  crop: SmallPicture;
}

export interface Cures {
  tried: TriedCure[];
  /** The recipe as it stands, and the same patches with it. */
  now: Prediction;
  crop: SmallPicture;
  cells: number;
  spentSeconds: number;
}

const SAMPLES = 8;
const MATCH_SAMPLES = 16;
/** Sample counts from which the fall of the noise is read. */
const SLOPE_FROM = [4, 8, 16];
const MOST_CELLS = 64;
/**
 * Bounds of the exponent by which squared noise falls. Below 0 it rises: where bright paths are met ever more often, while
 * each is still beyond what the display shows.
 */
const [SLOWEST, FASTEST] = [-1, 1.5];
/** With less than this no number of samples reaches a threshold. */
const LEAST_FALL = 0.1;
/** Strengths beyond these are no match but another light. */
const [LEAST_MATCH, MOST_MATCH] = [1 / 32, 32];
const RESAMPLED = 200;
/** Relative errors of predictions beside what cells tell (one standard deviation). */
const [NOISE_ERROR, TIME_ERROR] = [0.06, 0.08];

/** What a short render told of the cells. */
interface Taken {
  samples: number;
  /** Noise as it is seen, squared, and grain, squared. */
  squares: number[];
  grain: number[];
  rays: number[][];
  clock: number[];
  means: [number, number, number][];
  matched: ([number, number, number] | null)[];
}

const mean = (v: readonly number[], weights: readonly number[]) => {
  let sum = 0;
  let of = 0;
  v.forEach((x, i) => {
    sum += x * weights[i];
    of += weights[i];
  });
  return of > 0 ? sum / of : 0;
};

/** Even steps through all cells, at most so many. */
function chosenCells(count: number): number[] {
  const n = Math.min(count, MOST_CELLS);
  return Array.from({ length: n }, (_, i) => Math.floor(((i + 0.5) * count) / n));
}

function take(film: Film, cells: readonly number[], samples: number, exposure: Display): Taken {
  return {
    samples,
    squares: cells.map((t) => (cellError(film, t, exposure, 'beauty') / 100) ** 2),
    grain: cells.map((t) => grainOf(film, t, exposure)),
    rays: cells.map((t) => raysOfCell(film, t)),
    clock: cells.map((t) => msOfCell(film, t)),
    means: cells.map((t) => cellMean(film, t)),
    matched: cells.map((t) => cellMeanOfGroup(film, t, MATCHED_GROUP)),
  };
}

/** The recipe with even samples, and the parts kept that matching a strength needs. */
function even(recipe: Recipe, samples: number): Recipe {
  return parseRecipe({
    ...recipe,
    sampling: { ...recipe.sampling, cameraMin: samples, cameraMax: samples, adapt: 'even', stopNoise: 0 },
    film: { ...recipe.film, ...BEAUTY_ALONE, groups: true },
  });
}

const withoutLimits = (r: Recipe): Recipe =>
  parseRecipe({ ...r, sampling: { ...r.sampling, outlierLimit: { first: null, later: null } } });

/** Samples a recipe comes to: those that reach its threshold, between its least and most. */
function samplesOf({ sampling }: Recipe, noiseAt: (n: number) => number, exponent: number): number {
  const { cameraMin, cameraMax, stopNoise } = sampling;
  if (stopNoise === 0 || exponent < LEAST_FALL) return cameraMax;
  const needed = SAMPLES * (noiseAt(SAMPLES) / stopNoise) ** (2 / exponent);
  return Math.min(cameraMax, Math.max(cameraMin, needed));
}

/**
 * Tries every change that may cure the noise of a picture or region, by rendering patches of it: what each does to noise,
 * time and look at the same samples, the most efficient first. A cure in the scene keeps the patches' brightness by a
 * strength found from its own light's part, since light is linear in it.
 */
export async function tryCures(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  threads: number,
  { signal, onStep }: { signal?: AbortSignal; onStep?: (done: number, of: number, words: string) => void } = {},
): Promise<Cures> {
  const { document, recipe, frame } = patient;
  const camera: Camera = cameraOf(patient);
  const exposure = displayOf(camera.exposure, document.look);
  const timed = { trace: 0, calibrated: 0 };
  let cells: number[] | null = null;
  /** Patches that are shown, the noisiest of the picture as it stands. */
  let shown: number[] | null = null;
  const render = async (
    d: SceneDocument,
    r: Recipe,
    targets: number[],
  ): Promise<{ film: Film; taken: Taken[]; crop: SmallPicture | null }> => {
    const scene = await sceneOf(d);
    if (!pool.isLoaded) await pool.load(scene, r, camera, frame);
    const taken: Taken[] = [];
    let crop: SmallPicture | null = null;
    const run = await pool.render(scene, even(r, targets.at(-1)!), camera, {
      frame,
      signal,
      targets,
      cells: cells ?? undefined,
      calibrate: true,
      onSweep: (film, samples) => {
        cells ??= chosenCells(film.tileCount);
        const at = take(film, cells, samples, exposure);
        taken.push(at);
        if (samples !== SAMPLES) return;
        shown ??= noisiest(film, cells, at.squares);
        crop = cropOf(film, shown, exposure);
      },
    });
    timed.trace += run.traceMs;
    timed.calibrated += run.calibratedMs ?? run.traceMs;
    if (!run.finished) throw new PilotsStopped('stopped');
    return { film: run.film, taken, crop };
  };
  onStep?.(0, 1, 'the picture as it stands');
  const first = await render(document, recipe, [2]);
  const figures = measureFilm(first.film, exposure);
  const weights = cells!.map((t) => {
    const { w, h } = first.film.place(t);
    return w * h;
  });
  const pixels = Array.from({ length: first.film.tileCount }, (_, t) => first.film.place(t)).reduce(
    (n, { w, h }) => n + w * h,
    0,
  );
  const { taken: base, crop: before } = await render(document, recipe, SLOPE_FROM);
  // Outlier limits take light that a cure no longer loses: brightness is compared without them.
  const unlimited = withoutLimits(recipe);
  let bright: Taken | null = null;
  const ideas = recipeIdeas(recipe, figures);
  const looked = survey(pool.inspector()!, document, recipe, camera, frame);
  const changes = sceneIdeas(document, looked, figures);
  const all: (Omit<TriedCure, 'grain' | 'time' | 'efficiency' | 'look' | 'predicted'> & { taken: Taken })[] = [];
  let step = 1;
  const steps = 1 + ideas.length + changes.length;
  for (const idea of ideas) {
    onStep?.(step++, steps, idea.words);
    const { taken, crop } = await render(document, idea.recipe, [SAMPLES]);
    const nits = { before: brightness(base.at(-1)!, weights), after: brightness(taken[0], weights) };
    all.push({ ...idea, steps: [], document: null, matched: true, nits, taken: taken[0], crop: crop! });
  }
  for (const idea of changes) {
    onStep?.(step++, steps, idea.words);
    bright ??= (await render(document, unlimited, [MATCH_SAMPLES])).taken[0];
    const found = await matchedScene(idea, bright);
    if (!found) continue;
    const { taken, crop } = await render(found.document, recipe, [SAMPLES]);
    const [free] = (await render(found.document, unlimited, [SAMPLES])).taken;
    const { code, words, steps: made } = idea;
    const nits = { before: brightness(bright, weights), after: brightness(free, weights) };
    all.push({ code, words, steps: made, ...found, recipe, nits, taken: taken[0], crop: crop! });
  }

  /** The scene of an idea with the strength that keeps the brightness of the patches; as it is where there is none. */
  async function matchedScene(
    idea: SceneIdea,
    bright: Taken,
  ): Promise<{ document: SceneDocument; matched: boolean } | null> {
    const own = apart(idea);
    if (!own) return null;
    const { taken } = await render(own.document, unlimited, [MATCH_SAMPLES]);
    const channel = (v: ([number, number, number] | null)[], c: number) =>
      mean(
        v.map((x) => x?.[c] ?? 0),
        weights,
      );
    const before = [0, 1, 2].map((c) => channel(bright.means, c));
    const after = [0, 1, 2].map((c) => channel(taken[0].means, c));
    const given = [0, 1, 2].map((c) => channel(taken[0].matched, c));
    const rest = after.map((v, c) => v - given[c]);
    const y = (v: number[]) => luminance(v[0], v[1], v[2]);
    const ratios =
      idea.matches === 'color'
        ? before.map((v, c) => Math.max(0, (v - rest[c]) / given[c]))
        : [0, 1, 2].map(() => (y(before) - y(rest)) / y(given));
    const usable =
      ratios.every(Number.isFinite) &&
      (idea.matches === 'color' ? Math.max(...ratios) > 0 : ratios[0] > LEAST_MATCH && ratios[0] < MOST_MATCH);
    if (!usable) return { document: idea.make(own.strength), matched: false };
    return {
      document: idea.make(own.strength.map((v, c) => v * ratios[c]) as [number, number, number]),
      matched: true,
    };
  }

  const every = [...base, ...first.taken, ...all.map((a) => a.taken)];
  const costs = costsOf(
    every.flatMap((t) => t.rays),
    every.flatMap((t) => t.clock),
  );
  // Short renders are too short to tell the machine's speed: it is taken over all of them.
  const speed = timed.trace > 0 ? timed.calibrated / timed.trace : 1;
  const msOf = (t: Taken) =>
    mean(
      t.rays.map((rays) => rays.reduce((s, n, k) => s + n * costs[k], 0)),
      weights,
    );
  const reference = base[SLOPE_FROM.indexOf(SAMPLES)];
  const exponent = slope(base.map((t) => [t.samples, mean(t.squares, weights)]));
  const predict = (r: Recipe, t: Taken): Prediction => {
    const noise = intervalOf(t.squares, weights);
    const noiseAt = (n: number) => noise.value * (SAMPLES / n) ** (exponent / 2);
    const n = samplesOf(r, noiseAt, exponent);
    return {
      noise: widened(scaledBy(noise, noiseAt(n) / noise.value), NOISE_ERROR),
      seconds: widened(exactly((msOf(t) * speed * pixels * (n / SAMPLES)) / threads / 1000), TIME_ERROR),
    };
  };
  // Cures are compared by grain: what takes rare bright paths away would look noisier than what has not met them yet.
  const [square0, ms0] = [mean(reference.grain, weights), msOf(reference)];
  const tried = all.map(({ taken, ...idea }): TriedCure => {
    const [square, ms] = [mean(taken.grain, weights), msOf(taken)];
    return {
      ...idea,
      grain: Math.sqrt(square / square0),
      time: ms / ms0,
      efficiency: (square0 * ms0) / (square * ms),
      look: lookChange(base.at(-1)!, taken, weights, exposure),
      predicted: predict(idea.recipe, taken),
    };
  });
  return {
    tried: tried.filter((t) => Number.isFinite(t.efficiency)).sort((a, b) => b.efficiency - a.efficiency),
    now: predict(recipe, reference),
    crop: before!,
    cells: cells!.length,
    spentSeconds: timed.calibrated / 1000,
  };
}

const brightness = (t: Taken, weights: number[]) =>
  mean(
    t.means.map((m) => luminance(...m)),
    weights,
  );

/** Exponent by which squared noise falls with samples, by least squares of logarithms, within bounds. */
function slope(points: readonly (readonly [samples: number, square: number])[]): number {
  const usable = points.filter(([, s]) => s > 0).map(([n, s]) => [Math.log(n), Math.log(s)]);
  if (usable.length < 2) return 1;
  const m = [0, 1].map((k) => usable.reduce((s, p) => s + p[k], 0) / usable.length);
  const top = usable.reduce((s, p) => s + (p[0] - m[0]) * (p[1] - m[1]), 0);
  const under = usable.reduce((s, p) => s + (p[0] - m[0]) ** 2, 0);
  return Math.min(FASTEST, Math.max(SLOWEST, -top / under));
}

/** Noise in percent of display white with the interval that resampled cells give. */
function intervalOf(squares: readonly number[], weights: readonly number[]): Interval {
  const of = (at: (i: number) => number) => {
    let [sum, all] = [0, 0];
    for (let i = 0; i < squares.length; i++) {
      const j = at(i);
      sum += squares[j] * weights[j];
      all += weights[j];
    }
    return Math.sqrt(sum / all) * 100;
  };
  const random = mulberry(squares.length);
  const twins = Array.from({ length: RESAMPLED }, () => of(() => Math.floor(random() * squares.length)));
  return between(
    of((i) => i),
    twins,
  );
}

/**
 * Root mean square of how far the cells' mean luminances are from each other as displayed, in percent of white, less what
 * their noise alone makes of it.
 */
function lookChange(before: Taken, after: Taken, weights: readonly number[], exposure: Display): number {
  const squares = before.means.map((m, i) => {
    const [a, b] = [luminance(...m), luminance(...after.means[i])];
    const d = displayValue(b, exposure) - displayValue(a, exposure);
    return d * d - (before.squares[i] + after.squares[i]) / weights[i];
  });
  return Math.sqrt(Math.max(0, mean(squares, weights))) * 100;
}
