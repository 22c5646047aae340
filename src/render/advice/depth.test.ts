import { plane, type SceneDocument, sphere, transformed } from '@/core/scene';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../testing';
import { atLimit } from './axis';
import { adviseDepth } from './depth';

/** A glass ball and a matt one on a floor. */
const scene = testScene({
  meshes: {
    floor: plane(8, 8),
    glass: transformed(sphere(0.8, 24), [-0.9, 0.8, 0]),
    matt: transformed(sphere(0.8, 24), [0.9, 0.8, 0]),
  },
  materials: { glass: { transmission_weight: 1, specular_ior: 1.5, specular_roughness: 0 } },
  lights: [
    { kind: 'rectangle', name: 'lamp', power: 30, position: [0, 4, 3], facing: [0, -4, -3], width: 1, height: 1 },
  ],
  environment: [0.2, 0.2, 0.22],
  camera: { position: [0, 1.5, 5], target: [0, 0.7, 0] },
});
const recipe = testRecipe(96, 16, { rayDepth: { transmission: 12, diffuse: 1 } });
const patient = { document: scene.document, recipe, camera: 'cam', frame: 1 };
const sceneOf = async (document: SceneDocument) => ({ ...scene, document });

let pool: RenderPool;
beforeAll(() => {
  pool = new RenderPool(testKernel(), spawnInline, 1);
});
afterAll(() => pool.close());

test('glass needs transmission rays and what is matt needs none; deeper limits never take less time', async () => {
  const advice = await adviseDepth(pool, sceneOf, patient, 'transmission', {});
  const enough = (name: string) => advice.objects.find((o) => o.object === name)?.enough;
  expect(enough('glass')).toBeGreaterThanOrEqual(2);
  expect(enough('glass')).toBeLessThan(12);
  expect(enough('matt')!).toBeLessThan(enough('glass')!);
  expect(advice.objects[0].object).toBe('glass');
  const times = advice.times.map((t) => t.time);
  expect(advice.times.map((t) => t.limit)).toEqual([0, 1, 2, 3, 4, 6, 8, 12]);
  expect(times[0]).toBeLessThanOrEqual(times[2]);
  expect(times.at(-1)).toBe(1);
  for (const t of times) expect(t).toBeLessThan(1.02);
}, 120_000);

test('limits of their own are written to objects that need less, one bounce above what the camera sees', async () => {
  const { saving, objects } = await adviseDepth(pool, sceneOf, patient, 'transmission', {});
  expect(saving!.objects).toContain('matt');
  const { enough } = objects.find((o) => o.object === 'matt')!;
  const rules = saving!.document.objects.find((o) => o.name === 'matt')!.rules;
  expect(rules?.rayDepth?.transmission).toBe(enough! + 1);
  expect(saving!.time).toBeLessThan(1.02);
}, 120_000);

test('reach is told in metres, and objects have no limit of it', async () => {
  expect(atLimit(recipe, 'reach', 8).rayDepth.reachMetres).toBeGreaterThan(0);
  const { saving, times } = await adviseDepth(pool, sceneOf, patient, 'reach', {});
  expect(saving).toBeNull();
  expect(times[0].time).toBeLessThanOrEqual(1.001);
}, 120_000);
