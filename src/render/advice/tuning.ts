import { costsOf, type Factors, type Film, msOfCell, raysOfCell } from '@/core/film';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import type { Counts, Cure } from '@/core/stats';
import type { RenderPool } from '../pool/pool';
import { cameraOf, type Patient } from './patient';
import { countsOf, type PilotOptions, Pilots, PilotsStopped } from './pilots';
import { type Goal, type Prediction, type Proposal, predict, predictRecipe, propose } from './proposal';

/** What doubling or halving a count, or the camera samples, is predicted to do. */
export interface Consequence {
  what: Cure | 'samples';
  half: Prediction | null;
  twice: Prediction;
}

/** What pilots told of a recipe as it stands. */
export interface Tuned {
  now: Prediction;
  consequences: Consequence[];
  hot: number;
  cells: number;
  /** Calibrated seconds of the pilots on so many threads. */
  spentSeconds: number;
}

export interface Answer extends Tuned {
  proposal: Proposal | null;
  /** Whether noise is that of the worst of some moods, not of the picture as it is. */
  forMoods: boolean;
}

/** Settings that pilots set themselves. */
export function bare(recipe: Recipe): Recipe {
  const { sampling } = recipe;
  const { splits, lightSamples, cameraMin, cameraMax, adapt, stopNoise } = parseRecipe({}).sampling;
  return {
    ...recipe,
    name: 'pilot',
    sampling: { ...sampling, splits, lightSamples, cameraMin, cameraMax, adapt, stopNoise },
  };
}

/** Pilots of the scene and recipe last asked about; kept while nothing that counts for them changes. */
export class Tuning {
  private known: { key: string; pilots: Pilots } | null = null;

  private keyOf({ document, recipe, camera, frame }: Patient, moods: readonly Factors[]): string {
    return JSON.stringify([document, bare(recipe), camera, frame, moods]);
  }

  /** Whether pilots for this have been run. */
  has(patient: Patient, moods: readonly Factors[] = []): boolean {
    return this.known?.key === this.keyOf(patient, moods);
  }

  /** Runs pilots where there are none, and proposes a recipe for a goal; without one only tells what doubling does. */
  async ask(
    pool: RenderPool,
    sceneOf: (document: SceneDocument) => Promise<Scene>,
    patient: Patient,
    goal: Goal | null,
    threads: number,
    options: PilotOptions,
  ): Promise<Answer> {
    const moods = options.moods ?? [];
    const key = this.keyOf(patient, moods);
    const { document, recipe, frame } = patient;
    const camera = cameraOf(patient);
    if (this.known?.key !== key) {
      this.known = null;
      const plain = bare(recipe);
      // Moods are made of the groups' halves.
      const kept = moods.length > 0 ? { ...plain, film: { ...plain.film, groups: true } } : plain;
      const pilots = await Pilots.run(pool, await sceneOf(document), kept, camera, { ...options, frame });
      this.known = { key, pilots };
    }
    const { pilots } = this.known;
    const proposal = goal && (await propose(pilots, recipe, goal, threads));
    return { ...tuned(pilots, recipe, threads), proposal, forMoods: pilots.mood !== null };
  }
}

/** What pilots tell of a recipe: its own figures and those of its neighbours. */
export function tuned(pilots: Pilots, recipe: Recipe, threads: number): Tuned {
  const counts = countsOf(recipe);
  const { cameraMax, stopNoise } = recipe.sampling;
  const at = (c: Counts) => predictRecipe(pilots, recipe, c, threads);
  const consequences: Consequence[] = pilots.tried.map((k) => ({
    what: k,
    half: counts[k] >= 2 ? at({ ...counts, [k]: Math.floor(counts[k] / 2) }) : null,
    twice: at({ ...counts, [k]: counts[k] * 2 }),
  }));
  // Where cells stop by their noise, the most samples say little.
  if (stopNoise === 0)
    consequences.unshift({
      what: 'samples',
      half: cameraMax >= 2 ? predict(pilots, cameraMax / 2, counts, threads) : null,
      twice: predict(pilots, cameraMax * 2, counts, threads),
    });
  return {
    now: at(counts),
    consequences,
    hot: pilots.hot,
    cells: pilots.cells,
    spentSeconds: pilots.spentMs / threads / 1000,
  };
}

const SAVING_SAMPLES = 2;
const SAVING_WIDTH = 240;

/**
 * Times of a camera sample of some scenes and recipes over that of the first, by the rays that each takes of every kind on a
 * small picture, each kind at the cost that it was measured to have over all of them.
 */
export async function relativeTimes(
  pool: RenderPool,
  variants: readonly { scene: Scene; recipe: Recipe }[],
  patient: Patient,
  signal?: AbortSignal,
): Promise<number[]> {
  const { frame } = patient;
  const small = (r: Recipe) =>
    parseRecipe({
      ...r,
      size: { ...r.size, scale: Math.max(1, Math.min(r.size.scale, (SAVING_WIDTH / r.size.width) * 100)) },
      sampling: { ...r.sampling, cameraMin: SAVING_SAMPLES, cameraMax: SAVING_SAMPLES, adapt: 'even', stopNoise: 0 },
    });
  const films: Film[] = [];
  for (const { scene, recipe } of variants) {
    const camera = cameraOf({ document: scene.document, camera: patient.camera });
    if (!pool.isLoaded) await pool.load(scene, recipe, camera, frame);
    const { film, finished } = await pool.render(scene, small(recipe), camera, { frame, signal });
    if (!finished) throw new PilotsStopped('stopped');
    films.push(film);
  }
  const rows = films.map((film) => Array.from({ length: film.tileCount }, (_, t) => raysOfCell(film, t)));
  const times = films.map((film) => Array.from({ length: film.tileCount }, (_, t) => msOfCell(film, t)));
  // All films together: a kind of ray that only one of them has would have no cost by the others.
  const costs = costsOf(rows.flat(), times.flat());
  const totals = films.map((film, i) =>
    rows[i].reduce((sum, rays, t) => {
      const { w, h } = film.place(t);
      return sum + rays.reduce((s, n, k) => s + n * costs[k], 0) * w * h;
    }, 0),
  );
  return totals.map((t) => t / totals[0]);
}
