import {
  cellError,
  cellErrorRelit,
  costsOf,
  type Factors,
  type Film,
  halvesOf,
  msOfCell,
  type RayCounts,
  raysOfCell,
} from '@/core/film';
import { type Display, displayOf } from '@/core/image';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import {
  allocate,
  type Chosen,
  type Counts,
  CURES,
  type Cure,
  type CureFit,
  chooseCells,
  fitCures,
  noiseSquares,
  ONE_EACH,
  type Patches,
  type Pilot,
  predictCure,
  scaledBy,
  widened,
} from '@/core/stats';
import type { RenderPool } from '../pool/pool';

/** Camera samples of the first look at the whole frame, and of the pilots on patches. */
const SURVEY_SAMPLES = 2;
const PLAIN_SAMPLES = [4, 8, 16];
const SPLIT_SAMPLES = [4, 8];
const SPLITS = [2, 4];
const SHARE_OF_CELLS = 0.05;
const [LEAST_CELLS, MOST_CELLS] = [64, 240];
/** Kinds of rays that make up less of all are not tried. */
const LEAST_SHARE = 0.004;
/** Relative error (one standard deviation) of times by counted rays on a machine that does nothing else. */
const TIME_ERROR = 0.04;
/** Exponent by which a slow fall of noise adds to the time of samples dealt out: 1.2 to 1.3 was measured where noise² falls with N^−0.7. */
const SLOWER = 0.65;
/** What dealing out takes beyond what is needed, since samples come by sweeps: 1.06 was the mean of 24. */
const BY_SWEEPS = 1.05;
/** Pixels that count as the hottest. */
const HOT_PIXELS = 0.001;

const RAYS_OF = {
  diffuse: 'diffuse',
  reflection: 'reflection',
  transmission: 'transmission',
  fog: 'fog',
  light: 'shadow',
} as const satisfies Record<Cure, keyof RayCounts>;

export interface PilotOptions {
  frame?: number;
  /** Looks that the picture must serve: noise is that of the one which is the noisiest at the first look. */
  moods?: readonly Factors[];
  /** Whether no counts are tried but those that are asked for: what doubling others does is not told then. */
  asItIs?: boolean;
  signal?: AbortSignal;
  onStep?: (done: number, of: number, words: string) => void;
}

/** A recipe with these samples everywhere and these counts. */
export function withCounts(recipe: Recipe, samples: number, counts: Counts): Recipe {
  const { light, ...splits } = counts;
  const even = { cameraMin: samples, cameraMax: samples, adapt: 'even', stopNoise: 0 };
  return parseRecipe({ ...recipe, sampling: { ...recipe.sampling, ...even, splits, lightSamples: light } });
}

/** Counts that a recipe takes. */
export function countsOf(recipe: Recipe): Counts {
  return { ...recipe.sampling.splits, light: recipe.sampling.lightSamples };
}

/** What a short render told of some cells: squared noise, rays by kind and milliseconds by the clock, a pixel. */
interface Taken {
  samples: number;
  counts: Counts;
  squares: number[];
  rays: number[][];
  clock: number[];
}

/** How long a render took by the clock, and as a machine of speed 1 would have taken. */
interface Timed {
  traceMs: number;
  calibratedMs: number | null;
}

const pixelsOf = (film: Film, t: number) => {
  const { w, h } = film.place(t);
  return w * h;
};

/** Share of the squared noise that lies in the hottest pixels. */
function hotShare(film: Film, exposure: Display): number {
  const { a, b } = halvesOf(film);
  const squares = noiseSquares(a, b, exposure).sort();
  const hot = Math.max(1, Math.round(squares.length * HOT_PIXELS));
  const sum = (from: number) => squares.subarray(from).reduce((s, v) => s + v, 0);
  const whole = sum(0);
  return whole > 0 ? sum(squares.length - hot) / whole : 0;
}

/** Noise of a cell as a mood shows it. */
const errorOf = (film: Film, t: number, exposure: Display, mood: Factors | null) =>
  mood ? cellErrorRelit(film, t, exposure, mood) : cellError(film, t, exposure, 'beauty');

/** The mood in which a film is the noisiest; null when there are none. */
function worstMood(film: Film, exposure: Display, moods: readonly Factors[]): Factors | null {
  let worst: { mood: Factors; squares: number } | null = null;
  for (const mood of moods) {
    let squares = 0;
    for (let t = 0; t < film.tileCount; t++) squares += pixelsOf(film, t) * errorOf(film, t, exposure, mood) ** 2;
    if (!worst || squares > worst.squares) worst = { mood, squares };
  }
  return worst?.mood ?? null;
}

/**
 * What dealing out by uncertain variances promises too much. With log V̂ = log V + ε of variance σ² and the mean kept,
 * (Σ√V̂)² comes out too small by e^(−σ²/4). Of two films, one going on from the other to twice its samples, log-ratios of
 * the cells' variances scatter by just the σ² of the longer one, when σ² falls with 1/N.
 */
function optimism(half: Told, whole: Told, weight: readonly number[]): number {
  let [sum, mean, squares] = [0, 0, 0];
  weight.forEach((w, i) => {
    const [a, b] = [half.squares[i] * half.samples, whole.squares[i] * whole.samples];
    if (!(a > 0 && b > 0)) return;
    const r = Math.log(a / b);
    sum += w;
    mean += w * r;
    squares += w * r * r;
  });
  return sum > 0 ? Math.exp((squares / sum - (mean / sum) ** 2) / 4) : 1;
}

type Told = { samples: number; squares: ArrayLike<number> };

/** Stopped before there was anything to tell. */
export class PilotsStopped extends Error {}

/**
 * Short renders on patches of a frame that tell what a recipe's sampling costs and cures. The patches are chosen by a first
 * look at the whole frame; more counts can be tried as they come up.
 */
export class Pilots {
  readonly tried: Cure[];
  /** Pixels of the frame or region. */
  readonly pixels: number;
  /** Share of the noise in the hottest thousandth of the pixels: much of it makes every prediction uncertain. */
  readonly hot: number;
  /** The mood that noise is told of; null = the picture as it is. */
  readonly mood: Factors | null;
  private readonly chosen: Chosen;
  private readonly pixelsOf: number[];
  private readonly survey: Taken;
  private readonly pilots: Taken[] = [];
  private readonly timed = { traceMs: 0, calibratedMs: 0 };
  private current: { fit: CureFit; pilots: Pilot[]; costs: Float64Array; factor: number; scatter: number } | null =
    null;

  private constructor(
    private readonly pool: RenderPool,
    private readonly scene: Scene,
    private readonly recipe: Recipe,
    private readonly camera: Camera,
    private readonly options: PilotOptions,
    look: Timed & { film: Film },
  ) {
    const { film } = look;
    this.note(look);
    const all = Array.from({ length: film.tileCount }, (_, t) => t);
    this.mood = worstMood(film, this.exposure, options.moods ?? []);
    this.survey = this.take(film, all, SURVEY_SAMPLES, ONE_EACH);
    this.pixelsOf = all.map((t) => pixelsOf(film, t));
    this.pixels = all.reduce((s, t) => s + pixelsOf(film, t), 0);
    this.hot = hotShare(film, this.exposure);
    const count = Math.min(MOST_CELLS, Math.max(LEAST_CELLS, Math.round(all.length * SHARE_OF_CELLS)));
    // By rays and not by the clock, which would choose other patches each time.
    const { squares, rays: counted } = this.survey;
    this.chosen = chooseCells(
      all.map((t) => squares[t] * counted[t].reduce((sum, n) => sum + n, 0)),
      count,
    );
    const rays = film.rays();
    this.tried = CURES.filter((k) => rays[RAYS_OF[k]] > rays.total * LEAST_SHARE);
  }

  /** Looks at the frame and runs the first pilots. Rejects with `PilotsStopped` when stopped. */
  static async run(
    pool: RenderPool,
    scene: Scene,
    recipe: Recipe,
    camera: Camera,
    options: PilotOptions = {},
  ): Promise<Pilots> {
    const { frame, signal, asItIs, onStep } = options;
    if (!pool.isLoaded) await pool.load(scene, recipe, camera, frame);
    onStep?.(0, 1, 'looking at the whole frame');
    const plain = withCounts(recipe, SURVEY_SAMPLES, ONE_EACH);
    const look = await pool.render(scene, plain, camera, { frame, signal, calibrate: true });
    if (!look.finished) throw new PilotsStopped('stopped');
    const pilots = new Pilots(pool, scene, recipe, camera, options, look);
    const tried = asItIs ? [] : pilots.tried;
    const steps = 2 + tried.length * SPLITS.length;
    onStep?.(1, steps, 'more samples on patches');
    await pilots.trace(PLAIN_SAMPLES, ONE_EACH);
    let step = 2;
    for (const k of tried)
      for (const s of SPLITS) {
        onStep?.(step++, steps, `${k === 'light' ? 'light samples' : `${k} splits`} ${s}`);
        await pilots.trace(SPLIT_SAMPLES, { ...ONE_EACH, [k]: s });
      }
    return pilots;
  }

  get cells(): number {
    return this.chosen.cells.length;
  }

  private get exposure(): Display {
    return displayOf(this.camera.exposure, this.scene.document.look);
  }

  /** What a film tells of some cells. */
  private take(film: Film, cells: readonly number[], samples: number, counts: Counts): Taken {
    return {
      samples,
      counts,
      squares: cells.map((t) => (errorOf(film, t, this.exposure, this.mood) / 100) ** 2),
      rays: cells.map((t) => raysOfCell(film, t)),
      clock: cells.map((t) => msOfCell(film, t)),
    };
  }

  /** Short renders are too short to tell the machine's speed: it is taken over all of them. */
  private note({ traceMs, calibratedMs }: Timed): void {
    this.timed.traceMs += traceMs;
    this.timed.calibratedMs += calibratedMs ?? traceMs;
  }

  /** Calibrated milliseconds of a millisecond by the clock. */
  private get speed(): number {
    return this.timed.traceMs > 0 ? this.timed.calibratedMs / this.timed.traceMs : 1;
  }

  private async trace(targets: number[], counts: Counts): Promise<void> {
    const { frame, signal } = this.options;
    const { cells } = this.chosen;
    const run = await this.pool.render(this.scene, withCounts(this.recipe, targets.at(-1)!, counts), this.camera, {
      frame,
      signal,
      calibrate: true,
      cells,
      targets,
      onSweep: (film, samples) => {
        this.pilots.push(this.take(film, cells, samples, counts));
      },
    });
    this.current = null;
    this.note(run);
    if (!run.finished) throw new PilotsStopped('stopped');
  }

  /** Renders the patches with these counts, unless that has been done. */
  async tryCounts(counts: Counts): Promise<boolean> {
    if (this.pilots.some((p) => CURES.every((k) => p.counts[k] === counts[k]))) return false;
    await this.trace(SPLIT_SAMPLES, counts);
    return true;
  }

  /**
   * Times by counted rays, each kind at the cost that all pilots together say it has: the clock of a single pilot wanders
   * with whatever else the machine does.
   */
  private work() {
    if (this.current) return this.current;
    const { cells, stratum, weight } = this.chosen;
    const taken = [this.survey, ...this.pilots];
    const costs = costsOf(
      taken.flatMap((p) => p.rays),
      taken.flatMap((p) => p.clock),
    );
    const counted = (p: Taken) => p.rays.map((rays) => rays.reduce((s, n, k) => s + n * costs[k], 0));
    const pilots = this.pilots.map((p) => ({ ...p, ms: counted(p) }));
    const surveyMs = counted(this.survey);
    const at = (v: readonly number[]) => cells.map((t) => v[t]);
    const mean = (v: readonly number[]) => v.reduce((s, x, t) => s + x * this.pixelsOf[t], 0) / this.pixels;
    const patches: Patches = {
      stratum,
      weight,
      survey: { ms: at(surveyMs), whole: mean(surveyMs) },
    };
    const sum = (v: readonly number[]) => v.reduce((a, x) => a + x, 0);
    const factor = sum(pilots.map((p) => sum(p.clock))) / sum(pilots.map((p) => sum(p.ms)));
    const off = pilots.map((p) => sum(p.clock) / sum(p.ms) / factor - 1);
    const scatter = Math.sqrt(off.reduce((a, v) => a + v * v, 0) / Math.max(1, off.length - 1));
    this.current = { fit: fitCures(pilots, patches), pilots, costs, factor, scatter };
    return this.current;
  }

  get fit(): CureFit {
    return this.work().fit;
  }

  /** All counts that were rendered. */
  get counts(): Counts[] {
    return this.pilots.filter((p) => p.samples === SPLIT_SAMPLES.at(-1)).map((p) => p.counts);
  }

  /** Calibrated milliseconds of one thread that all this took. */
  get spentMs(): number {
    const whole = this.survey.clock.reduce((s, v, t) => s + v * this.pixelsOf[t], 0);
    // Of sweeps that went on from each other the last holds the time of all.
    const ends = this.pilots.filter((p, i) => this.pilots[i + 1]?.counts !== p.counts);
    const patches = ends.map((p) => p.clock.reduce((t, v, i) => t + v * this.pixelsOf[this.chosen.cells[i]], 0));
    return (whole + patches.reduce((a, v) => a + v, 0)) * this.speed;
  }

  /** Noise in percent and milliseconds of one thread a pixel, with intervals that also hold how times wandered. */
  predict(samples: number, counts: Counts) {
    const { fit, factor, scatter } = this.work();
    const { noise, ms } = predictCure(fit, samples, counts);
    // A busy machine's clock wanders from pilot to pilot; of all of them together it wanders less.
    const error = Math.hypot(TIME_ERROR, scatter / Math.sqrt(this.pilots.length));
    return { noise, ms: widened(scaledBy(ms, factor * this.speed), error) };
  }

  /** Milliseconds of one thread that a film of this frame took at speed 1, by its counted rays at the pilots' costs. */
  countedMs(film: Film): number {
    const { costs, factor } = this.work();
    let ms = 0;
    for (let t = 0; t < film.tileCount; t++)
      ms += pixelsOf(film, t) * raysOfCell(film, t).reduce((s, n, k) => s + n * costs[k], 0);
    return ms * factor * this.speed;
  }

  /**
   * Time of dealing samples out for the least rays over that of `samples` everywhere, at the same noise, between `least`
   * and `most` samples: as the pilot of these counts with the most samples promises, and as is to be expected of it. Counts
   * cure some cells more than others, so that what is left to deal out differs with them.
   */
  dealtOut(samples: number, counts: Counts, least: number, most: number): { promised: number; expected: number } {
    const alike = (of: Counts) => this.work().pilots.filter((x) => CURES.every((k) => x.counts[k] === of[k]));
    const own = alike(counts);
    const told = own.length > 0 ? own : alike(ONE_EACH);
    const p = told.at(-1)!;
    const { weight } = this.chosen;
    const cells = weight.map((w, i) => ({ pixels: w, samples: p.samples, squares: p.squares[i], cost: p.ms[i] }));
    const target = weight.reduce((s, w, i) => s + w * p.squares[i], 0) * (p.samples / samples);
    // What a cell has so far is its least: told anew as if it had the least.
    const dealt = allocate(
      cells.map((c) => ({ ...c, samples: least, squares: (c.squares * p.samples) / least })),
      target,
      most,
    );
    const cost = weight.reduce((s, w, i) => s + w * dealt[i] * p.ms[i], 0);
    const even = weight.reduce((s, w, i) => s + w * samples * p.ms[i], 0);
    const promised = even > 0 ? Math.min(1, cost / even) : 1;
    // Where noise falls slower than 1/√N, cells of rare light go on asking for more than their variance so far says.
    const slower = Math.min(1, this.fit.model.b) ** -SLOWER;
    return { promised, expected: Math.min(1, promised * optimism(told.at(-2) ?? p, p, weight) * slower * BY_SWEEPS) };
  }
}
