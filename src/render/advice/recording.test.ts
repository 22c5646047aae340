import { plane, withParts } from '@/core/scene';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../testing';
import { recordingCost } from './recording';

test('a light group kept in three parts takes two more groups of a film, and one again gives them back', async () => {
  const scene = testScene({
    meshes: { floor: plane(4, 4) },
    camera: { position: [0, 2, 4], target: [0, 0, 0] },
    lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', position: [0, 2, 1], radius: 0.2, power: 20 }],
  });
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  const parted = withParts(scene.document, 'lamp', true);
  const recipe = testRecipe(48, 4);
  const cost = (from: typeof parted, to: typeof parted) =>
    recordingCost(
      pool,
      async (document) => ({ ...scene, document }),
      { document: from, recipe, camera: 'cam', frame: 1 },
      to,
    );
  const more = await cost(scene.document, parted);
  // Of each its light and both halves of it, in red, green and blue.
  expect(more.stored).toBe(2 * 9 * 48 * 48 * 4);
  expect((await cost(parted, scene.document)).stored).toBe(-more.stored);
  const { ratio, least, most } = more.time;
  expect(least > 0 && least <= ratio && ratio <= most).toBe(true);
  pool.close();
});
