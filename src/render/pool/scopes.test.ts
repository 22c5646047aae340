import { makeLayers } from '@/core/film';
import { parseRecipe } from '@/core/recipe';
import { plane, sphere, transformed } from '@/core/scene';
import { meanOf, testKernel, testRecipe, testScene } from '../testing';
import { RenderPool } from './pool';
import { spawnInline } from './spawn-inline';

test('a pool goes from the whole scene to a part of it and back to the same bits', async () => {
  const scene = testScene({
    meshes: { floor: plane(4, 4), ball: transformed(sphere(0.4, 32), [0, 0.4, 0]) },
    materials: {
      floor: { base_color: [0.8, 0.8, 0.8] },
      ball: { base_color: [0.5, 0.5, 0.5], emission_luminance: 2 },
    },
    environment: [1, 1, 1],
    camera: { position: [0, 1, 3], target: [0, 0.3, 0] },
  });
  const whole = testRecipe(16, 8);
  const of = (scope: object) => parseRecipe({ ...whole, scope });
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  const beauty = async (recipe: typeof whole) => {
    const { film } = await pool.render(scene, recipe, scene.document.cameras[0], {});
    return makeLayers(film);
  };
  await pool.load(scene);
  const first = await beauty(whole);
  const ball = { kind: 'object', name: 'ball' };
  const parts = [{ receivers: [] }, { receivers: [ball], casters: [] }, { casters: [], receivers: [] }, { sky: false }];
  for (const scope of parts) {
    const part = await beauty(of({ sky: false, ...scope }));
    expect(meanOf(part, 'beauty')).toBeLessThan(meanOf(first, 'beauty'));
    const again = await beauty(whole);
    expect(again.layers.get('beauty')!.planes).toEqual(first.layers.get('beauty')!.planes);
  }
  pool.close();
});
