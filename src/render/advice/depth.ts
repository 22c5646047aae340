import { LEDGER_LAYERS, makeLayer, objectDepths } from '@/core/film';
import { displayOf } from '@/core/image';
import { BEAUTY_ALONE, parseRecipe } from '@/core/recipe';
import { type Scene, type SceneDocument, withField } from '@/core/scene';
import type { RenderPool } from '../pool/pool';
import { atLimit, type DepthAxis, limitOf } from './axis';
import { cameraOf, type Patient } from './patient';
import { type PilotOptions, PilotsStopped } from './pilots';
import { relativeTimes } from './tuning';

/** What a limit costs, and which objects need how much of it. */
export interface DepthAdvice {
  axis: DepthAxis;
  /** Time of a sample at limits over that of the recipe as it stands. */
  times: { limit: number; time: number }[];
  /** Objects the camera sees, by the depth they need, deepest first; null when the deepest traced is not enough. */
  objects: { object: string; pixels: number; enough: number | null }[];
  /** Limits of their own for objects that need less than the recipe gives: the scene with them, and what it saves. */
  saving: { objects: string[]; time: number; document: SceneDocument } | null;
}

const ACROSS = 240;
const SAMPLES = 16;
const TIMED_LIMITS = [0, 1, 2, 3, 4, 6, 8, 12, 16];
const MOST_OBJECTS = 64;

/**
 * Renders the frame small with a ledger and a mask by object, and times it at limits: what each costs, how deep each object
 * needs rays to go, and what limits of their own would save. An object that needs less may still be looked at by mirrors and
 * diffuse rays, so its own limit leaves one bounce more than the camera needs.
 */
export async function adviseDepth(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  axis: DepthAxis,
  { signal, onStep }: PilotOptions,
): Promise<DepthAdvice> {
  const { document, recipe, frame } = patient;
  const camera = cameraOf(patient);
  const exposure = displayOf(camera.exposure, document.look);
  const { sampling, film: kept } = recipe;
  const small = parseRecipe({
    ...recipe,
    region: null,
    size: { ...recipe.size, scale: Math.min(recipe.size.scale, Math.max(1, (ACROSS / recipe.size.width) * 100)) },
    sampling: { ...sampling, cameraMin: SAMPLES, cameraMax: SAMPLES, adapt: 'even', stopNoise: 0 },
    film: { ...kept, ...BEAUTY_ALONE, ledger: axis, features: ['coverage'] },
  });
  const scene = await sceneOf(document);
  if (!pool.isLoaded) await pool.load(scene, small, camera, frame);
  onStep?.(0, 3, 'how deep objects need it');
  const { film, finished } = await pool.render(scene, small, camera, { frame, signal });
  if (!finished) throw new PilotsStopped('stopped');
  const names = [...LEDGER_LAYERS, 'coverage'];
  const layers = new Map(names.map((n) => [n, makeLayer(film, n)!]));
  const { width, height } = film.spec.region;
  const found = (objectDepths({ width, height, layers }, exposure) ?? []).slice(0, MOST_OBJECTS);
  const objects = found
    .map(({ id, pixels, enough }) => ({ object: film.spec.coverage[id - 1], pixels, enough }))
    .filter((o) => document.objects.some((d) => d.name === o.object))
    .sort((a, b) => (b.enough ?? 99) - (a.enough ?? 99) || b.pixels - a.pixels);
  onStep?.(1, 3, 'time at every limit');
  const limit = limitOf(recipe, axis);
  const limits = TIMED_LIMITS.filter((l) => limit === null || l < limit);
  const variants = [recipe, ...limits.map((l) => atLimit(recipe, axis, l))].map((r) => ({ scene, recipe: r }));
  const ratios = await relativeTimes(pool, variants, patient, signal);
  const times = [
    ...limits.map((l, i) => ({ limit: l, time: ratios[i + 1] })),
    ...(limit === null ? [] : [{ limit, time: 1 }]),
  ];
  onStep?.(2, 3, 'what limits of their own save');
  const lower = limit === null ? [] : objects.filter((o) => o.enough !== null && o.enough + 1 < limit);
  if (limit === null || lower.length === 0) return { axis, times, objects, saving: null };
  const limited = lower.reduce(
    (d, o) => withField(d, { kind: 'object', name: o.object }, `rules.rayDepth.${axis}`, o.enough! + 1),
    document,
  );
  const [, time] = await relativeTimes(
    pool,
    [
      { scene, recipe },
      { scene: await sceneOf(limited), recipe },
    ],
    patient,
    signal,
  );
  return { axis, times, objects, saving: { objects: lower.map((o) => o.object), time, document: limited } };
}
