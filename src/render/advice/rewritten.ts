import { type Factors, type Film, factorOf, makeSpec as specOf } from '@/core/film';
import { luminance } from '@/core/image';
import { TILE_PIXELS, TILE_SIZE } from '@/core/kernel';
import { BEAUTY_ALONE, type Recipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import type { RenderPool } from '../pool/pool';
import { cameraOf, type Patient } from './patient';
import { countsOf, PilotsStopped, withCounts } from './pilots';

/** What a mix came to that was written to the lights. Light in percent of what the mix showed, over all patches. */
export interface Rewritten {
  patches: number;
  /** What is rendered now beyond what was shown. */
  apart: number;
  /** How far noise takes what of it limits do not explain: three standard errors, by both halves. */
  noise: number;
  /** What of it outlier limits cut more or less than they did before, whole and by light group. */
  cut: number;
  cutByGroup: Record<string, number>;
  /** Whether noise and limits explain it: what is left is within that noise. */
  isExplained: boolean;
}

const PATCHES = 24;
/** Samples a pixel of a patch: as many as are traced in about this time, within these. */
const SECONDS = 6;
const [LEAST_SAMPLES, MOST_SAMPLES] = [8, 64];
const STANDARD_ERRORS = 3;

/** Cells of a film, spread over it. */
function spread({ spec: { tilesX, tilesY } }: Pick<Film, 'spec'>): number[] {
  const count = tilesX * tilesY;
  // Steps of the golden section of all cells: no two near each other in a row of them.
  const cells = Array.from({ length: PATCHES }, (_, k) => Math.floor(((k * 0.6180339887) % 1) * count));
  return [...new Set(cells)].sort((a, b) => a - b);
}

type Halves = [number, number];
/** Mean luminance of a group in a cell, by both halves, at a factor. */
function lightOf(film: Film, t: number, g: number, factor: readonly number[]): Halves {
  const { groups, planes } = film.spec;
  const { w, h } = film.place(t);
  const floats = film.floats(t);
  const sums = [0, 1].map((half) => {
    const [r, gr, b] = [0, 1, 2].map((c) => {
      const from = (planes.groups + (half * groups.length + g) * 3 + c) * TILE_PIXELS;
      let sum = 0;
      for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) sum += floats[from + y * TILE_SIZE + x];
      return sum * factor[c];
    });
    // A half has half of the samples.
    return (luminance(r, gr, b) * 2) / (w * h * Math.max(1, film.samples[t]));
  });
  return [sums[0], sums[1]];
}

/** Mean luminance of cells by light group and half, one after another. */
const lightsOf = (film: Film, cells: readonly number[], factors: Factors): Halves[][] =>
  film.spec.groups.map((name, g) => cells.map((t) => lightOf(film, t, g, factorOf(factors, name))));

const whole = (lights: readonly Halves[][]): Halves[] =>
  lights[0].map((_, p) => [0, 1].map((half) => lights.reduce((sum, l) => sum + l[p][half], 0)) as Halves);
const mean = (halves: readonly Halves[]) => halves.reduce((sum, [a, b]) => sum + (a + b) / 2, 0) / halves.length;

/**
 * Renders patches of the patient's scene and of `to`, its lights as a mix was written to them, with the same random numbers, and tells how far they
 * are apart where the one is shown at `before` and the other at `after`. Outlier limits do not go with the strength of lights: what they cut
 * is told by rendering both without. Throws `PilotsStopped`.
 */
export async function rewritten(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  to: SceneDocument,
  { before, after }: { before: Factors; after: Factors },
  {
    signal,
    onStep,
    samplesPerSecond = Number.POSITIVE_INFINITY,
  }: { signal?: AbortSignal; onStep?: (done: number, of: number) => void; samplesPerSecond?: number } = {},
): Promise<Rewritten> {
  const { recipe, frame } = patient;
  const { first, later } = recipe.sampling.outlierLimit;
  const isLimited = first !== null || later !== null;
  const renders = isLimited ? 4 : 2;
  const affordable = (SECONDS * samplesPerSecond) / (renders * PATCHES * TILE_PIXELS);
  const samples = 2 * Math.round(Math.min(MOST_SAMPLES, Math.max(LEAST_SAMPLES, affordable)) / 2);
  const even = withCounts(recipe, samples, countsOf(recipe));
  const limited: Recipe = {
    ...even,
    region: null,
    film: { ...even.film, ...BEAUTY_ALONE, groups: true },
    denoise: { ...even.denoise, on: false },
  };
  const unlimited: Recipe = {
    ...limited,
    sampling: { ...limited.sampling, outlierLimit: { first: null, later: null } },
  };
  const recipes = isLimited ? [limited, unlimited] : [limited];
  let cells: number[] = [];
  const rendered: Halves[][][] = [];
  for (const [document, factors] of [
    [patient.document, before],
    [to, after],
  ] as const) {
    const scene = await sceneOf(document);
    const camera = cameraOf({ document, camera: patient.camera });
    if (!pool.isLoaded) await pool.load(scene, recipe, camera, frame);
    for (const own of recipes) {
      if (cells.length === 0) cells = spread({ spec: specOf(own, document) });
      onStep?.(rendered.length, renders);
      const { film, finished } = await pool.render(scene, own, camera, { frame, signal, cells });
      if (!finished) throw new PilotsStopped('stopped');
      rendered.push(lightsOf(film, cells, factors));
    }
  }
  const [was, is] = [rendered[0], rendered[recipes.length]];
  const level = mean(whole(was));
  const percent = (v: number) => (level > 0 ? (v / level) * 100 : 0);
  const differences = (now: Halves[][], then: Halves[][]): Halves[] => {
    const [n, t] = [whole(now), whole(then)];
    return n.map(([x, y], p) => [x - t[p][0], y - t[p][1]]);
  };
  const apart = percent(mean(differences(is, was)));
  // Without limits, where there are any: with them, what they cut stands between the two.
  const left = differences(rendered[rendered.length - 1], rendered[recipes.length - 1]);
  const error = Math.sqrt(left.reduce((sum, [x, y]) => sum + (x - y) ** 2 / 4, 0)) / left.length;
  const noise = percent(STANDARD_ERRORS * error);
  const groups = specOf(limited, patient.document).groups;
  const cutByGroup = Object.fromEntries(
    groups.map((g, i) => {
      if (recipes.length === 1) return [g, 0];
      const cutBefore = mean(rendered[1][i]) - mean(was[i]);
      const cutNow = mean(rendered[3][i]) - mean(is[i]);
      return [g, percent(cutBefore - cutNow)];
    }),
  );
  const cut = Object.values(cutByGroup).reduce((sum, c) => sum + c, 0);
  return {
    patches: cells.length,
    apart,
    noise,
    cut,
    cutByGroup,
    isExplained: Math.abs(percent(mean(left))) <= noise + 1e-3,
  };
}
