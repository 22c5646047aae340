import { denoisedLayers, unbent } from '@/core/denoise';
import { cellError, cropLayers, type Film, type FilmLayers, LAYER, makeLayers, msOfCell } from '@/core/film';
import { type Display, displayOf, displayReader, luminance, scaleOf } from '@/core/image';
import { TILE_SIZE } from '@/core/kernel';
import { BEAUTY_ALONE, parseRecipe, type Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import {
  between,
  type Chosen,
  chooseCells,
  type Interval,
  mulberry,
  noiseSquares,
  type Rgb,
  widened,
} from '@/core/stats';
import { denoiseFilm } from '../pool/denoiser';
import type { RenderPool } from '../pool/pool';
import type { Tracer } from '../pool/protocol';
import { MOST_TOLD } from './bounds';
import { countsOf, PilotsStopped, withCounts } from './pilots';

/** Samples of the first look, of what is denoised, and of what that is held against. */
const SURVEY = 2;
const TRIED = [4, 8, 16];
const TRUTH = 24;
const OTHERS = [0x9e3779b9, 0x7f4a7c15];
/** Windows that are denoised, and their side in cells; what is nearer to their edge than one cell is not judged. */
const WINDOWS = 6;
const SIDE = 5;

/** Relative errors (one standard deviation) of what is read between or beyond the counts tried, and of times. */
const READ_ERROR = 0.08;
const TIME_ERROR = 0.12;
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
  /** Seconds of filtering the frame, on one thread. */
  filterSeconds: number;
  windows: number;
}

/** Mean squares over the judged part of a window, as displayed. */
interface Squares {
  error: number;
  residual: number;
  noise: number;
}
type Measure = keyof Squares;

interface Window {
  cells: number[];
  x: number;
  y: number;
  w: number;
  h: number;
  /** Pixels at its edges that are not judged: left, top, right, bottom. */
  edge: [number, number, number, number];
}

/** Where windows of so many cells begin that cover `all`: as few as can be, evenly apart. */
function beginnings(all: number, own: number): number[] {
  const count = Math.ceil(all / own);
  return Array.from({ length: count }, (_, k) => (count === 1 ? 0 : Math.round((k * (all - own)) / (count - 1))));
}

/** Windows that cover a film. */
function windowsOf(film: Film): Window[] {
  const { width, height } = film.spec.region;
  const [columns, rows] = [Math.ceil(width / TILE_SIZE), Math.ceil(height / TILE_SIZE)];
  const [across, down] = [Math.min(SIDE, columns), Math.min(SIDE, rows)];
  const out: Window[] = [];
  for (const cy of beginnings(rows, down))
    for (const cx of beginnings(columns, across)) {
      const cells: number[] = [];
      for (let j = 0; j < down; j++) for (let i = 0; i < across; i++) cells.push((cy + j) * columns + cx + i);
      const [x, y] = [cx * TILE_SIZE, cy * TILE_SIZE];
      const w = Math.min(width, x + across * TILE_SIZE) - x;
      const h = Math.min(height, y + down * TILE_SIZE) - y;
      const inside = (is: boolean) => (is ? TILE_SIZE : 0);
      const edge: Window['edge'] = [inside(x > 0), inside(y > 0), inside(x + w < width), inside(y + h < height)];
      out.push({ cells, x, y, w, h, edge });
    }
  return out;
}

const rgb = (film: FilmLayers, name: string) => film.layers.get(name)!.planes as unknown as Rgb;

/** How far a denoised window is from the truth, told by two films that it has not seen. */
function squaresOf(
  plain: FilmLayers,
  made: FilmLayers,
  truth: readonly FilmLayers[],
  display: Display,
  edge: Window['edge'],
): Squares {
  const f = displayReader(display);
  const light = ([r, g, b]: Rgb, i: number) => luminance(r[i], g[i], b[i]);
  const told = ([a, b]: readonly [Rgb, Rgb], i: number) => unbent(f, light(a, i), light(b, i));
  const halves = (film: FilmLayers) => [rgb(film, LAYER.half('a')), rgb(film, LAYER.half('b'))] as const;
  const [t, u] = truth.map(halves);
  const d = rgb(made, 'beauty');
  const left = noiseSquares(...halves(made), display);
  const noisy = noiseSquares(...halves(plain), display);
  const sum: Squares = { error: 0, residual: 0, noise: 0 };
  let n = 0;
  for (let y = edge[1]; y < plain.height - edge[3]; y++)
    for (let x = edge[0]; x < plain.width - edge[2]; x++, n++) {
      const i = y * plain.width + x;
      const own = f(light(d, i));
      sum.error += (own - told(t, i)) * (own - told(u, i));
      sum.residual += left[i];
      sum.noise += noisy[i];
    }
  return { error: sum.error / n, residual: sum.residual / n, noise: sum.noise / n };
}

/** A value at some samples: read between those tried, or beyond them by their last fall, along straight lines of logarithms. */
export function readAt(tried: readonly number[], values: readonly number[], samples: number): number {
  const logs = values.map((v) => Math.log(Math.max(v, 1e-12)));
  const last = tried.length - 1;
  const k = Math.max(
    1,
    Math.min(last, tried.findIndex((n) => n >= samples) === -1 ? last : tried.findIndex((n) => n >= samples)),
  );
  const t = (Math.log(samples) - Math.log(tried[k - 1])) / (Math.log(tried[k]) - Math.log(tried[k - 1]));
  return Math.exp(logs[k - 1] + t * (logs[k] - logs[k - 1]));
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

/**
 * The least samples at which a recipe's denoised picture is off by no more than a target, told by denoising windows of the
 * frame at a few counts and holding them against others of other random numbers. Rejects with `PilotsStopped` when stopped.
 */
export async function adviseDenoised(
  pool: RenderPool,
  scene: Scene,
  recipe: Recipe,
  camera: Camera,
  { target, threads, filter, spawn, frame, signal, onStep }: DenoisedOptions,
): Promise<DenoisedAdvice> {
  const display = displayOf(camera.exposure, scene.document.look);
  const steps = 3 + TRIED.length;
  if (!pool.isLoaded) await pool.load(scene, recipe, camera, frame);
  const counts = countsOf(recipe);
  const traced = async (r: Recipe, more: Partial<Parameters<RenderPool['render']>[3]>) => {
    const run = await pool.render(scene, r, camera, { frame, signal, calibrate: true, ...more });
    if (!run.finished) throw new PilotsStopped('stopped');
    return run;
  };
  onStep?.(0, steps, 'looking at the whole frame');
  const bare: Recipe = {
    ...recipe,
    denoise: { ...recipe.denoise, on: false },
    film: { ...recipe.film, ...BEAUTY_ALONE },
  };
  const { film: survey } = await traced(withCounts(bare, SURVEY, counts), {});
  const all = windowsOf(survey);
  const worth = all.map((w) => w.cells.reduce((s, t) => s + cellError(survey, t, display, 'beauty') ** 2, 0));
  const drawn: Chosen = chooseCells(worth, Math.min(WINDOWS, all.length));
  const windows = drawn.cells.map((i) => all[i]);
  const cells = [...new Set(windows.flatMap((w) => w.cells))];

  onStep?.(1, steps, 'windows to hold it against');
  const truth: FilmLayers[] = [];
  for (const other of OTHERS) {
    const seed = (bare.sampling.seed ^ other) >>> 0;
    const own = parseRecipe({ ...bare, sampling: { ...bare.sampling, seed } });
    truth.push(makeLayers((await traced(withCounts(own, TRUTH, counts), { cells })).film));
  }
  onStep?.(2, steps, 'windows to denoise');
  const kept: Recipe['film'] = {
    ...recipe.film,
    ...BEAUTY_ALONE,
    groups: true,
    guides: true,
    features: ['alpha', 'depth'],
  };
  const films: FilmLayers[] = [];
  const run = await traced(withCounts({ ...bare, film: kept }, TRIED.at(-1)!, counts), {
    cells,
    targets: TRIED,
    onSweep: (film, samples) => {
      if (TRIED.includes(samples)) films.push(makeLayers(film));
    },
  });
  const told: Squares[][] = [];
  let filterMs = 0;
  for (const [k, film] of films.entries()) {
    onStep?.(3 + k, steps, `denoising ${TRIED[k]} samples`);
    const own: Squares[] = [];
    for (const { x, y, w, h, edge } of windows) {
      if (signal?.aborted) throw new PilotsStopped('stopped');
      const plain = cropLayers(film, x, y, w, h);
      const { prepared, seconds } = await denoiseFilm(plain, {
        module: filter,
        spawn,
        threads: 1,
        scale: scaleOf(display),
        signal,
      });
      filterMs += seconds * 1000;
      own.push(
        squaresOf(
          plain,
          denoisedLayers(plain, prepared),
          truth.map((t) => cropLayers(t, x, y, w, h)),
          display,
          edge,
        ),
      );
    }
    told.push(own);
  }
  const pixels = (w: Window) => w.w * w.h;
  const area = survey.spec.region.width * survey.spec.region.height;
  const judged = windows.reduce((s, w) => s + pixels(w), 0);
  const speed = run.calibratedMs ? run.calibratedMs / run.traceMs : 1;
  /** Milliseconds of a thread a pixel and sample in each window. */
  const cost = windows.map((w) => {
    let [ms, n] = [0, 0];
    for (const t of w.cells) {
      const place = run.film.place(t);
      ms += msOfCell(run.film, t) * place.w * place.h;
      n += place.w * place.h;
    }
    return (ms / n / TRIED.at(-1)!) * speed;
  });

  const { weight, stratum } = drawn;
  const strata = [...new Set(stratum)].map((s) => stratum.flatMap((v, i) => (v === s ? [i] : [])));
  const random = mulberry(1);
  const at = (numbers: readonly number[]) => {
    const mean = (k: number, key: Measure) =>
      Math.max(
        0,
        numbers.reduce((s, i) => s + weight[i] * told[k][i][key], 0),
      );
    const curve = (key: Measure) => TRIED.map((_, k) => 100 * Math.sqrt(mean(k, key)));
    const ms = numbers.reduce((s, i) => s + weight[i] * cost[i], 0);
    return { error: curve('error'), residual: curve('residual'), noise: curve('noise'), ms };
  };
  const whole = at(windows.map((_, i) => i));
  const twins = Array.from({ length: TWINS }, () =>
    at(strata.flatMap((own) => own.map(() => own[Math.floor(random() * own.length)]))),
  );
  const reached = samplesFor(TRIED, whole.error, target);
  const samples = reached ?? MOST_TOLD;
  const told95 = (key: Measure) =>
    widened(
      between(
        readAt(TRIED, whole[key], samples),
        twins.map((t) => readAt(TRIED, t[key], samples)),
      ),
      READ_ERROR,
    );
  const seconds = (ms: number) => (ms * samples * area) / threads / 1000;
  return {
    samples: reached,
    predicted: {
      error: told95('error'),
      residual: told95('residual'),
      noise: told95('noise'),
      seconds: widened(
        between(
          seconds(whole.ms),
          twins.map((t) => seconds(t.ms)),
        ),
        TIME_ERROR,
      ),
    },
    filterSeconds: (filterMs / films.length / judged / 1000) * area,
    windows: windows.length,
  };
}
