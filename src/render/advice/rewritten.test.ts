import { mixFactors, writtenBack } from '@/core/moods';
import { parseRecipe, withSetting } from '@/core/recipe';
import { box, type Scene, sphere, transformed } from '@/core/scene';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../testing';
import { rewritten } from './rewritten';

/** A room with a lamp that a sharp mirror throws about, and a second light. */
const scene: Scene = testScene({
  meshes: { floor: transformed(box(6, 0.1, 6), [0, -1, 0]), ball: sphere(0.7, 24) },
  materials: { ball: { base_metalness: 1, specular_roughness: 0.05 } },
  lights: [
    { kind: 'sphere', name: 'lamp', group: 'lamp', position: [1.5, 1, 1], radius: 0.05, power: 30 },
    { kind: 'point', name: 'key', group: 'key', position: [-2, 3, 2], power: 10 },
  ],
});
const lifted = { lamp: { stops: 3, on: true, color: { kind: 'own' as const } } };
const groups = ['lamp', 'key'];
const pool = new RenderPool(testKernel(), spawnInline, 1);
afterAll(() => pool.close());

const check = (document: Scene['document'], limits: object) => {
  const { first, later } = { first: null, later: null, ...limits };
  const recipe = parseRecipe(withSetting(testRecipe(96, 16), 'sampling.outlierLimit', { first, later }));
  return rewritten(
    pool,
    async (d) => ({ ...scene, document: d }),
    { document: scene.document, recipe, camera: 'cam', frame: 1 },
    document,
    { before: mixFactors(groups, lifted, {}), after: {} },
  );
};

test('what was written to the lights is rendered as it was shown, to within its noise', async () => {
  const told = await check(writtenBack(scene.document, lifted, {}).document, {});
  expect(told.isExplained).toBe(true);
  expect(Math.abs(told.apart)).toBeLessThan(told.noise + 1e-3);
  expect(told.cut).toBe(0);
  expect(told.patches).toBeGreaterThan(15);
});

test('light that an outlier limit cuts once lights are stronger is counted, by group, and explains the difference', async () => {
  const told = await check(writtenBack(scene.document, lifted, {}).document, { first: 0, later: 0 });
  // The limit is as it was, and eight times as much of the lamp is beyond it.
  expect(told.apart).toBeLessThan(-5);
  expect(told.isExplained).toBe(true);
  expect(told.cutByGroup.lamp).toBeLessThan(-5);
  expect(Math.abs(told.apart - told.cut)).toBeLessThan(told.noise + 1e-3);
});

test('lights that are not what the mix showed are told', async () => {
  const told = await check(scene.document, {});
  expect(told.isExplained).toBe(false);
  expect(told.apart).toBeLessThan(-30);
});
