import { measureFilm } from '@/core/film';
import { box, plane, type SceneDocument, sphere, transformed } from '@/core/scene';
import { RenderPool } from '../../pool/pool';
import { spawnInline } from '../../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../../testing';
import { recipeIdeas } from './ideas';
import { type Cures, tryCures } from './try-cures';

/** A lamp within a shade of rough glass, over a floor. */
const scene = testScene({
  meshes: {
    floor: plane(6, 6),
    block: transformed(box(0.5, 0.5, 0.5), [-1, 0.25, 0]),
    shade: transformed(sphere(0.5, 20), [0.6, 1.3, 0]),
  },
  materials: { shade: { transmission_weight: 1, specular_roughness: 0.4, specular_ior: 1.45 } },
  lights: [{ kind: 'sphere', name: 'bulb', group: 'lamp', power: 400, position: [0.6, 1.3, 0], radius: 0.05 }],
  environment: [0.01, 0.01, 0.012],
  camera: { position: [0, 1.4, 4.5], target: [0, 0.6, 0], exposure: { ev100: null, stops: 0 } },
});
const recipe = testRecipe(96, 32, { rayDepth: { diffuse: 2, reflection: 4, transmission: 8 } });
const sceneOf = async (document: SceneDocument) => ({ ...scene, document });
const patient = { document: scene.document, recipe, camera: 'cam', frame: 1 };

let pool: RenderPool;
let cures: Cures;
const told: string[] = [];
beforeAll(async () => {
  pool = new RenderPool(testKernel(), spawnInline, 1);
  cures = await tryCures(pool, sceneOf, patient, 1, { onStep: (_done, _of, words) => told.push(words) });
}, 240_000);
afterAll(() => pool.close());

const named = (code: string) => cures.tried.find((t) => t.code === code)!;

test('cures come in the order of their efficiency, each with what it does', () => {
  // It goes from the worker to the page as it is.
  expect(structuredClone(cures)).toEqual(cures);
  const e = cures.tried.map((t) => t.efficiency);
  expect(e).toEqual([...e].sort((a, b) => b - a));
  for (const t of cures.tried) expect(t.efficiency).toBeCloseTo(1 / (t.grain ** 2 * t.time), 6);
  expect(told).toEqual(expect.arrayContaining(['the picture as it stands', 'light samples 1 → 2']));
});

test('a lamp in its shade is the cause, and the cures in the scene beat every count of samples', () => {
  const scenes = cures.tried.filter((t) => t.document !== null);
  expect(scenes.map((t) => t.code)).toEqual(
    expect.arrayContaining(['glow:shade', 'pass:shade', 'caustics:shade', 'exclude:bulb:shade']),
  );
  const counts = cures.tried.filter((t) => t.code.startsWith('sampling.splits') || t.code === 'sampling.lightSamples');
  const best = Math.max(...counts.map((t) => t.efficiency));
  expect(named('pass:shade').efficiency).toBeGreaterThan(2 * best);
});

test('a cure in the scene makes all its steps and keeps the brightness', () => {
  for (const code of ['glow:shade', 'pass:shade']) {
    const cure = named(code);
    expect(cure.matched).toBe(true);
    expect(cure.steps.length).toBe(2);
    // Both are measured at eight samples of a caustic, which is what is noisy here.
    expect(cure.nits.after / cure.nits.before).toBeGreaterThan(0.75);
    expect(cure.nits.after / cure.nits.before).toBeLessThan(1.33);
  }
  const glow = named('glow:shade').document!;
  expect(glow.objects.find((o) => o.name === 'shade')!.rules?.secondaryMaterial).toBe('shade, lit');
  expect(glow.materials.find((m) => m.name === 'shade, lit')).toMatchObject({ light_group: 'lamp' });
  const pass = named('pass:shade').document!;
  expect(pass.objects.find((o) => o.name === 'shade')!.rules?.seenBy?.shadow).toBe(false);
});

test('what a cure is predicted to come to is what a render with it comes to', async () => {
  for (const code of ['pass:shade', 'sampling.lightSamples']) {
    const { document, recipe: cured, predicted } = named(code);
    const { film } = await pool.render(await sceneOf(document ?? scene.document), cured, scene.document.cameras[0], {});
    const { rms } = measureFilm(film, 1).noise!;
    expect(predicted.noise.value / rms).toBeGreaterThan(0.6);
    expect(predicted.noise.value / rms).toBeLessThan(1.6);
    expect(predicted.noise.low).toBeLessThan(predicted.noise.value);
  }
}, 120_000);

test('settings are proposed only for rays that the picture has, within their limits', async () => {
  const { film } = await pool.render(scene, testRecipe(32, 4), scene.document.cameras[0], {});
  const figures = measureFilm(film, 1);
  const full = testRecipe(32, 4, { sampling: { splits: { diffuse: 64 } }, rayDepth: { diffuse: 6, transmission: 1 } });
  const codes = recipeIdeas(full, figures).map((i) => i.code);
  expect(codes).not.toContain('sampling.splits.fog');
  expect(codes).not.toContain('sampling.splits.diffuse');
  const words = recipeIdeas(full, figures).map((i) => i.words);
  expect(words).toEqual(expect.arrayContaining(['diffuse depth 6 → 3', 'transmission depth 1 → 0']));
});

test('a stop asked for while trying ends it', async () => {
  const stop = new AbortController();
  const asked = tryCures(pool, sceneOf, patient, 1, { signal: stop.signal, onStep: (n) => n === 1 && stop.abort() });
  await expect(asked).rejects.toThrow('stopped');
});
