import { cellErrorRelit, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { plane, sphere, transformed } from '@/core/scene';
import { ONE_EACH } from '@/core/stats';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../testing';
import { countsOf, Pilots, PilotsStopped, withCounts } from './pilots';
import { predict, propose } from './proposal';
import { relativeTimes, Tuning, tuned } from './tuning';

const scene = testScene({
  meshes: {
    floor: plane(8, 8),
    ball: transformed(sphere(0.8, 24), [0, 0.8, 0]),
  },
  materials: { ball: { base_color: [0.7, 0.3, 0.2] } },
  lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 12, position: [1.4, 1.2, 0.6], radius: 0.25 }],
  environment: [0.02, 0.02, 0.03],
  camera: { position: [0, 1.5, 5], target: [0, 0.7, 0] },
});
const camera = scene.document.cameras[0];
const recipe = testRecipe(96, 16);

let pool: RenderPool;
let pilots: Pilots;
const noiseOf = async (r: typeof recipe) => measureFilm((await pool.render(scene, r, camera, {})).film, 1).noise!.rms;

beforeAll(async () => {
  pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  pilots = await Pilots.run(pool, scene, recipe, camera);
}, 120_000);
afterAll(() => pool.close());

test('rays that this picture does not have are not tried', () => {
  expect(pilots.tried).toEqual(expect.arrayContaining(['diffuse', 'light']));
  expect(pilots.tried).not.toContain('transmission');
  expect(pilots.tried).not.toContain('fog');
  expect(pilots.pixels).toBe(96 * 96);
  expect(pilots.spentMs).toBeGreaterThan(0);
});

test('noise of recipes that were never rendered is predicted nearly from sixteen samples on patches', async () => {
  for (const [samples, counts] of [
    [32, ONE_EACH],
    [32, { ...ONE_EACH, diffuse: 2 }],
    [32, { ...ONE_EACH, light: 4 }],
  ] as const) {
    const measured = await noiseOf({
      ...withCounts(recipe, samples, counts),
      sampling: { ...withCounts(recipe, samples, counts).sampling, seed: 9 },
    });
    const { noise } = pilots.predict(samples, counts);
    expect(noise.value / measured).toBeGreaterThan(0.7);
    expect(noise.value / measured).toBeLessThan(1.4);
    expect(noise.low).toBeLessThanOrEqual(noise.value);
    expect(noise.high).toBeGreaterThanOrEqual(noise.value);
  }
}, 120_000);

test('time grows with samples and counts', () => {
  const ms = (n: number, counts = ONE_EACH) => pilots.predict(n, counts).ms.value;
  expect(ms(32) / ms(16)).toBeCloseTo(2, 6);
  expect(ms(16, { ...ONE_EACH, diffuse: 2 })).toBeGreaterThan(ms(16));
  expect(pilots.predict(16, ONE_EACH).ms.high).toBeGreaterThan(ms(16));
});

test('dealing samples out never costs more than even ones, and nothing is gained between equal bounds', () => {
  const { promised, expected: saved } = pilots.dealtOut(32, ONE_EACH, 8, 256);
  expect(saved).toBeGreaterThanOrEqual(promised);
  expect(saved).toBeGreaterThan(0.2);
  expect(saved).toBeLessThanOrEqual(1);
  expect(pilots.dealtOut(32, ONE_EACH, 32, 32).promised).toBeCloseTo(1, 6);
});

test('a proposal reaches the noise that was asked for, and says what it will take', async () => {
  const goal = { noise: pilots.predict(24, ONE_EACH).noise.value };
  const p = await propose(pilots, recipe, goal, 1);
  const measured = await noiseOf(p.recipe);
  expect(measured).toBeLessThan(goal.noise * 1.1);
  expect(measured).toBeGreaterThan(goal.noise * 0.75);
  expect(p.predicted.seconds.value).toBeLessThanOrEqual(p.uniform.predicted.seconds.value * 1.001);
  expect(p.uniform.samples).toBeGreaterThanOrEqual(22);
}, 120_000);

test('a noise out of reach takes the most samples, and says what that comes to', async () => {
  const p = await propose(pilots, recipe, { noise: 1e-7 }, 1);
  expect(p.recipe.sampling).toMatchObject({ cameraMin: 65536, cameraMax: 65536, adapt: 'even' });
  expect(p.predicted.noise.value).toBeGreaterThan(1e-7);
}, 120_000);

test('within a time the proposal is predicted to keep to it', async () => {
  const seconds = predict(pilots, 32, ONE_EACH, 1).seconds.value;
  const p = await propose(pilots, recipe, { seconds }, 1);
  expect(p.predicted.seconds.value).toBeLessThanOrEqual(seconds * 1.01);
  expect(p.predicted.noise.value).toBeLessThanOrEqual(p.uniform.predicted.noise.value * 1.01);
}, 120_000);

test('doubling and halving are told of every count that has rays', () => {
  const own = withCounts(recipe, 16, { ...ONE_EACH, diffuse: 2 });
  const { consequences, now } = tuned(pilots, own, 1);
  const of = (what: string) => consequences.find((c) => c.what === what)!;
  expect(of('samples').twice.noise.value).toBeLessThan(now.noise.value);
  expect(of('samples').half!.noise.value).toBeGreaterThan(now.noise.value);
  expect(of('diffuse').half!.seconds.value).toBeLessThan(now.seconds.value);
  expect(of('light').half).toBeNull();
  expect(of('fog')).toBeUndefined();
  expect(countsOf(own).diffuse).toBe(2);
});

test('a recipe that stops at a noise is told by that noise, whatever its most samples', () => {
  const stop = pilots.predict(16, ONE_EACH).noise.value;
  const own = testRecipe(96, 4096, { sampling: { cameraMin: 4, adapt: 'cheapest', stopNoise: stop } });
  const { now, consequences } = tuned(pilots, own, 1);
  expect(now.noise.value / stop).toBeGreaterThan(0.8);
  expect(now.noise.value / stop).toBeLessThan(1.01);
  expect(now.seconds.value).toBeLessThanOrEqual(predict(pilots, 18, ONE_EACH, 1).seconds.value);
  expect(consequences.some((c) => c.what === 'samples')).toBe(false);
});

test('pilots are kept while only counts change, and run again for another depth', async () => {
  const tuning = new Tuning();
  const patient = { document: scene.document, recipe, camera: camera.name, frame: 1 };
  const steps: string[] = [];
  const ask = (r: typeof recipe) =>
    tuning.ask(pool, async () => scene, { ...patient, recipe: r }, null, 1, { onStep: (_d, _o, w) => steps.push(w) });
  await ask(recipe);
  const once = steps.length;
  expect(tuning.has({ ...patient, recipe: withCounts(recipe, 64, { ...ONE_EACH, light: 4 }) })).toBe(true);
  await ask(withCounts(recipe, 64, ONE_EACH));
  expect(steps.length).toBe(once);
  expect(tuning.has({ ...patient, recipe: { ...recipe, rayDepth: { ...recipe.rayDepth, diffuse: 0 } } })).toBe(false);
}, 120_000);

test('for moods, noise is that of the noisiest look, and samples are not dealt out by the plain picture', async () => {
  const moods = [{ lamp: [4, 4, 4] as const }, { lamp: [0.125, 0.125, 0.125] as const }];
  const night = await Pilots.run(pool, scene, recipe, camera, { moods });
  expect(night.mood).toEqual(moods[0]);
  expect(pilots.mood).toBeNull();
  const { film } = await pool.render(scene, withCounts(recipe, 32, ONE_EACH), camera, {});
  const display = displayOf(camera.exposure, scene.document.look);
  let [squares, pixels] = [0, 0];
  for (let t = 0; t < film.tileCount; t++) {
    const { w, h } = film.place(t);
    squares += w * h * cellErrorRelit(film, t, display, moods[0]) ** 2;
    pixels += w * h;
  }
  const measured = Math.sqrt(squares / pixels);
  const { noise } = night.predict(32, ONE_EACH);
  expect(noise.value / measured).toBeGreaterThan(0.7);
  expect(noise.value / measured).toBeLessThan(1.4);
  expect(noise.low).toBeLessThan(measured);
  expect(noise.high).toBeGreaterThan(measured);
  const p = await propose(night, recipe, { noise: night.predict(20, ONE_EACH).noise.value }, 1);
  expect(p.recipe.sampling).toMatchObject({ adapt: 'even', stopNoise: 0 });
}, 120_000);

test('stopping ends it in words', async () => {
  const abort = new AbortController();
  const run = Pilots.run(pool, scene, recipe, camera, { signal: abort.signal, onStep: () => abort.abort() });
  await expect(run).rejects.toBeInstanceOf(PilotsStopped);
}, 60_000);

test('fewer rays never cost more, whatever the clock says of each kind, and the same recipe costs the same', async () => {
  const patient = { document: scene.document, recipe, camera: camera.name, frame: 1 };
  const many = withCounts(recipe, 16, { ...ONE_EACH, light: 8 });
  const one = withCounts(recipe, 16, ONE_EACH);
  const of = (recipes: (typeof recipe)[]) =>
    relativeTimes(
      pool,
      recipes.map((r) => ({ scene, recipe: r })),
      patient,
    );
  const [, fewer, same] = await of([many, one, many]);
  expect(fewer).toBeLessThanOrEqual(1);
  expect(same).toBeCloseTo(1, 6);
  expect((await of([one, many]))[1]).toBeGreaterThanOrEqual(1);
}, 60_000);
