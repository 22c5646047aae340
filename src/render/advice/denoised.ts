import { denoisedLayers } from '@/core/denoise';
import { cellError, cropLayers, type Film, type FilmLayers, makeLayers } from '@/core/film';
import { type Display, displayOf, scaleOf } from '@/core/image';
import { BEAUTY_ALONE, type Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import { between, type Drawn, drawByWorth, type Interval, mulberry, readAt, widened } from '@/core/stats';
import { denoiseFilm } from '../pool/denoiser';
import type { RenderOptions, RenderPool } from '../pool/pool';
import type { Tracer } from '../pool/protocol';
import { MOST_TOLD } from './bounds';
import { unseen } from './patches';
import { countsOf, PilotsStopped, withCounts } from './pilots';
import { msOfWindow, type Squares, squaresOf, type Window, windowsOf } from './windows';

/** Samples of the first look, of what is denoised, and of what that is held against. */
const SURVEY = 2;
const TRIED = [4, 8, 16];
/** Counts that are told of beside the one asked for. */
const TOLD = [...TRIED, 32, MOST_TOLD];
const TRUTH = 24;
/** Draws of windows, of which each is worth its noise and at least this share of the mean. */
const DRAWS = 8;
const FLOOR = 0.1;
const STEPS = 3 + TRIED.length;
/** Relative errors (one standard deviation) of what is read between or beyond the counts tried, and of times. */
const READ_ERROR = 0.08;
const TIME_ERROR = 0.12;
/** Relative error that is added for each e-fold of samples beyond those tried. */
const BEYOND_ERROR = 0.12;
/** Seconds that a trial's tracing may take beside its samples: keeping, showing, ending sweeps. */
const BESIDE = 2;
const TWINS = 400;

/** What a recipe comes to when it is denoised. */
export interface DenoisedPrediction {
  /** All that is wrong in the denoised picture, noise that is left and what was changed, in percent of display white. */
  error: Interval;
  /** Noise that is left, told by the denoised halves. */
  residual: Interval;
  /** Noise of the film as it is rendered. */
  noise: Interval;
  /** Of tracing, at speed 1 on so many threads. */
  seconds: Interval;
}

export interface DenoisedAdvice {
  /** Least samples at which the denoised picture is off by no more than the target; null where none tried or near reaches it. */
  samples: number | null;
  /** At these samples, or at the most that can be told of. */
  predicted: DenoisedPrediction;
  /** The same at other counts of samples, from the least tried to the most that can be told of. */
  table: { samples: number; error: Interval; residual: Interval }[];
  /** Seconds of filtering the frame, on one thread. */
  filterSeconds: number;
  windows: number;
}

/** Least even count of samples at which a value has fallen to a target; null where it does not within what can be told. */
export function samplesFor(tried: readonly number[], values: readonly number[], target: number): number | null {
  for (let n = tried[0]; n <= MOST_TOLD; n += 2) if (readAt(tried, values, n) <= target) return n;
  return null;
}

export interface DenoisedOptions {
  /** Percent of display white that the denoised picture may be off by. */
  target: number;
  /** Threads that the trial will be traced on. */
  threads: number;
  filter: WebAssembly.Module;
  spawn: () => Tracer;
  frame?: number;
  signal?: AbortSignal;
  onStep?: (done: number, of: number, words: string) => void;
}

/** Windows as they were rendered: how they were drawn, what is denoised at each count, and two films of the truth. */
interface Rendered {
  windows: Window[];
  /** By the numbers of the windows above. */
  drawn: Drawn[];
  films: FilmLayers[];
  truth: FilmLayers[];
  /** Milliseconds of a thread at speed 1 a pixel and sample that each took, and in the first look. */
  costs: number[];
  looked: number[];
  /** The first look's over the whole frame. */
  lookedAll: number;
  /** Pixels of the frame. */
  area: number;
}

/** Looks at the whole frame and renders windows of it. */
async function renderWindows(
  pool: RenderPool,
  scene: Scene,
  recipe: Recipe,
  camera: Camera,
  { frame, signal, onStep }: DenoisedOptions,
): Promise<Rendered> {
  const display = displayOf(camera.exposure, scene.document.look);
  if (!pool.isLoaded) await pool.load(scene, recipe, camera, frame);
  const counts = countsOf(recipe);
  const traced = async (r: Recipe, more: RenderOptions) => {
    const run = await pool.render(scene, r, camera, { frame, signal, calibrate: true, ...more });
    if (!run.finished) throw new PilotsStopped('stopped');
    return run;
  };
  const film = { ...recipe.film, ...BEAUTY_ALONE };
  const bare: Recipe = { ...recipe, denoise: { ...recipe.denoise, on: false }, film };
  onStep?.(0, STEPS, 'looking at the whole frame');
  const { film: survey } = await traced(withCounts(bare, SURVEY, counts), {});
  const all = windowsOf(survey);
  const worth = all.map((w) => {
    const squares = w.cells.reduce((s, t) => s + cellError(survey, t, display, 'beauty') ** 2, 0);
    return squares / w.cells.length;
  });
  const draws = drawByWorth(worth, DRAWS, FLOOR);
  const chosen = [...new Set(draws.map((d) => d.index))];
  const drawn = draws.map((d) => ({ ...d, index: chosen.indexOf(d.index) }));
  const windows = chosen.map((i) => all[i]);
  const cells = [...new Set(windows.flatMap((w) => w.cells))];

  onStep?.(1, STEPS, 'windows to hold it against');
  const truth: FilmLayers[] = [];
  for (const own of unseen(recipe, TRUTH)) truth.push(makeLayers((await traced(own, { cells })).film));
  onStep?.(2, STEPS, 'windows to denoise');
  // All that the trial will keep: it takes time as well.
  const kept: Recipe['film'] = { ...recipe.film, groups: true, guides: true };
  const films: FilmLayers[] = [];
  const onSweep = (f: Film, samples: number) => {
    if (TRIED.includes(samples)) films.push(makeLayers(f));
  };
  const most = TRIED.at(-1)!;
  const run = await traced(withCounts({ ...bare, film: kept }, most, counts), { cells, targets: TRIED, onSweep });
  const speed = run.calibratedMs ? run.calibratedMs / run.traceMs : 1;
  const costs = windows.map((w) => (msOfWindow(run.film, w) / most) * speed);
  const { width, height } = survey.spec.region;
  const looked = all.map((w) => msOfWindow(survey, w));
  return {
    windows,
    drawn,
    films,
    truth,
    costs,
    looked: chosen.map((i) => looked[i]),
    lookedAll: looked.reduce((a, v) => a + v, 0) / looked.length,
    area: width * height,
  };
}

/** Denoises every window at every count and holds it against the truth. */
async function denoiseWindows(
  { windows, films, truth }: Rendered,
  display: Display,
  { filter, spawn, signal, onStep }: DenoisedOptions,
): Promise<{ told: Squares[][]; filterSeconds: number }> {
  const told: Squares[][] = [];
  let filterSeconds = 0;
  for (const [k, film] of films.entries()) {
    onStep?.(3 + k, STEPS, `denoising ${TRIED[k]} samples`);
    const own: Squares[] = [];
    for (const { x, y, w, h, edge } of windows) {
      if (signal?.aborted) throw new PilotsStopped('stopped');
      const crop = (f: FilmLayers) => cropLayers(f, x, y, w, h);
      const plain = crop(film);
      const how = { module: filter, spawn, threads: 1, scale: scaleOf(display), signal };
      const { prepared, seconds } = await denoiseFilm(plain, how);
      filterSeconds += seconds;
      own.push(squaresOf(plain, denoisedLayers(plain, prepared), truth.map(crop), display, edge));
    }
    told.push(own);
  }
  return { told, filterSeconds };
}

/**
 * Curves over the counts tried, and milliseconds a pixel and sample, of the whole frame by windows of it. Time is told by its
 * ratio to the first look's.
 */
function curvesOf(told: readonly Squares[][], { costs, looked, lookedAll }: Rendered, drawn: readonly Drawn[]) {
  const sum = (values: readonly number[]) => drawn.reduce((s, { index, weight }) => s + weight * values[index], 0);
  const curve = (key: keyof Squares) => told.map((own) => 100 * Math.sqrt(Math.max(0, sum(own.map((w) => w[key])))));
  const own = sum(looked);
  const ms = sum(costs) * (own > 0 ? lookedAll / own : 1);
  return { error: curve('error'), residual: curve('residual'), noise: curve('noise'), ms };
}

/** Draws again from the draws: one fewer, which makes up for how alike so few are [Rao and Wu 1988]. */
function drawnAgain(drawn: readonly Drawn[], random: () => number): Drawn[] {
  const count = Math.max(1, drawn.length - 1);
  return Array.from({ length: count }, () => {
    const { index, weight } = drawn[Math.floor(random() * drawn.length)];
    return { index, weight: (weight * drawn.length) / count };
  });
}

/**
 * The least samples at which a recipe's denoised picture is off by no more than a target, told by denoising windows of the
 * frame at a few counts and holding them against others of other random numbers. Rejects with `PilotsStopped` when stopped.
 */
export async function adviseDenoised(
  pool: RenderPool,
  scene: Scene,
  recipe: Recipe,
  camera: Camera,
  options: DenoisedOptions,
): Promise<DenoisedAdvice> {
  const { target, threads } = options;
  const rendered = await renderWindows(pool, scene, recipe, camera, options);
  const display = displayOf(camera.exposure, scene.document.look);
  const { told, filterSeconds } = await denoiseWindows(rendered, display, options);
  const { windows, drawn, area } = rendered;
  const random = mulberry(1);
  const whole = curvesOf(told, rendered, drawn);
  const twins = Array.from({ length: TWINS }, () => curvesOf(told, rendered, drawnAgain(drawn, random)));
  const reached = samplesFor(TRIED, whole.error, target);
  const samples = reached ?? MOST_TOLD;
  const interval = (of: (curves: typeof whole) => number, error: number) =>
    widened(between(of(whole), twins.map(of)), error);
  const at = (key: keyof Squares, n: number) => {
    const further = Math.log(Math.max(1, n / TRIED.at(-1)!));
    return interval((c) => readAt(TRIED, c[key], n), Math.hypot(READ_ERROR, BEYOND_ERROR * further));
  };
  const seconds = interval((c) => (c.ms * samples * area) / threads / 1000, TIME_ERROR);
  const filtered = windows.reduce((s, w) => s + w.w * w.h, 0) * TRIED.length;
  return {
    samples: reached,
    predicted: {
      error: at('error', samples),
      residual: at('residual', samples),
      noise: at('noise', samples),
      seconds: { ...seconds, high: seconds.high + BESIDE },
    },
    table: TOLD.map((n) => ({ samples: n, error: at('error', n), residual: at('residual', n) })),
    filterSeconds: (filterSeconds / filtered) * area,
    windows: windows.length,
  };
}
