import { makeLayers } from '@/core/film';
import { plane, sphere } from '@/core/scene';
import { renderBanded } from '../node/banded';
import { filmHash } from '../node/film-digest';
import { testKernel, testRecipe, testScene } from '../testing';
import { cutIntoBands } from './bands';
import { RenderPool } from './pool';
import { spawnInline } from './spawn-inline';

const scene = testScene({
  meshes: { floor: plane(4, 4), ball: sphere(0.5, 24) },
  lights: [{ kind: 'point', name: 'p', power: 20, position: [0, 3, 0] }],
  environment: [0.3, 0.3, 0.3],
  camera: { position: [0, 2, 4], target: [0, 0, 0] },
});
const camera = scene.document.cameras[0];
const all = { film: { features: ['alpha', 'depth', 'coverage', 'position'], ledger: 'all', lostLight: true } };

test.each<[string, object]>([
  ['the whole', {}],
  ['a region', { region: { x: 0.25, y: 0.1, w: 0.5, h: 0.83 } }],
  ['cells that stop by themselves', { sampling: { cameraMin: 4, cameraMax: 64, stopNoise: 2 } }],
])('bands and the frame at once give the same bits: %s', async (_, change) => {
  const recipe = testRecipe(100, 8, { ...all, ...change });
  const pool = new RenderPool(testKernel(), spawnInline, 2);
  await pool.load(scene);
  const { film } = await pool.render(scene, recipe, camera);
  const whole = makeLayers(film);
  const options = { signal: new AbortController().signal, frame: 1 };
  const banded = await renderBanded(pool, scene, recipe, camera, { ...options, bands: 3 });
  const one = await renderBanded(pool, scene, recipe, camera, { ...options, bands: 1 });
  const few = await renderBanded(pool, scene, recipe, camera, { ...options, bands: 2, keep: ['beauty', 'depth'] });
  pool.close();
  expect(banded.hash).toBe(filmHash(film));
  expect(one.hash).toBe(banded.hash);
  for (const [name, layer] of whole.layers) {
    if (name === 'cost') continue;
    expect([name, banded.layers.layers.get(name)!.planes]).toEqual([name, layer.planes]);
  }
  expect(banded.noise!.rms).toBeCloseTo(one.noise!.rms, 6);
  expect(banded.rays).toEqual(film.rays());
  expect([...few.layers.layers.keys()]).toEqual(['beauty', 'depth']);
});

test('bands are whole rows of cells and cover the region', () => {
  const recipes = cutIntoBands(testRecipe(100, 2), 3);
  expect(recipes.map((r) => r.region!.y)).toEqual([0, 0.32, 0.64]);
  expect(recipes.at(-1)!.region!.y + recipes.at(-1)!.region!.h).toBeCloseTo(1, 9);
  expect(cutIntoBands(testRecipe(20, 2), 50).length).toBe(2);
});
