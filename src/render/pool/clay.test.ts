import { exposureScale } from '@/core/image';
import { box, plane, sphere, transformed } from '@/core/scene';
import { filmHash } from '../node/film-digest';
import { meanOf, measureTest, type TestScene, testKernel, testRecipe, testScene } from '../testing';
import { RenderPool } from './pool';
import { spawnInline } from './spawn-inline';

const room: TestScene = {
  meshes: {
    floor: plane(4, 4),
    tin: transformed(box(0.4, 0.8, 0.4), [0, 0.4, 0]),
    bulb: transformed(sphere(0.2, 24), [1, 1, 0]),
  },
  materials: {
    floor: { base_color: [0.9, 0.1, 0.1] },
    tin: { base_metalness: 1 },
    bulb: { emission_luminance: 30 },
  },
  environment: [0.2, 0.2, 0.2],
  sets: { things: ['tin'] },
  camera: { position: [0, 3, 3], target: [0, 0, 0] },
};
const render = (clay: object, t: TestScene = room) => measureTest(t, 16, { clay: { on: true, ...clay } }, { size: 24 });

test('all surfaces become grey but those kept out by object, set or material', async () => {
  const albedo = (m: Awaited<ReturnType<typeof render>>) => {
    const planes = m.layers.layers.get('albedo')!.planes;
    const alpha = m.layers.layers.get('alpha')!.planes[0];
    return [0, 1, 2].map((c) => planes[c].filter((_, i) => alpha[i] === 1));
  };
  const all = await render({ grey: 0.4, keepEmission: false });
  for (const plane of albedo(all)) expect(Math.max(...plane.map((v) => Math.abs(v - 0.4)))).toBeLessThan(1e-6);
  expect(all.layers.layers.has('group.other')).toBe(true);
  expect(meanOf(all.layers, 'group.other')).toBe(0);
  const lit = await render({ grey: 0.4 });
  expect(meanOf(lit.layers, 'group.other')).toBeGreaterThan(0.1);
  for (const except of [['floor'], ['things', 'floor']]) {
    const [red, green] = albedo(await render({ grey: 0.4, except }));
    expect(Math.max(...red)).toBeGreaterThan(0.8);
    expect(Math.min(...green)).toBeLessThan(0.2);
  }
  await expect(render({ except: ['rope'] })).rejects.toThrow(
    'clay.except: neither object, set nor material is named rope',
  );
});

test('shaded by occlusion, an open place shows grey and the foot of a high wall half of it, at any exposure', async () => {
  const camera = {
    position: [0, 0.5, 0.0001],
    target: [0, 0, 0],
    up: [0, 0, -1],
    focalLengthMm: 2000,
    exposure: { ev100: 9, stops: 0 },
  };
  const scale = exposureScale(camera.exposure);
  const open: TestScene = {
    meshes: { floor: plane(4, 4) },
    lights: [{ kind: 'point', name: 'p', power: 50, position: [0, 1, 0] }],
    camera,
  };
  const bare = await render({ occlusion: true, grey: 0.6 }, open);
  expect(Math.abs(bare.mean * scale - 0.6)).toBeLessThan(1e-3);
  const wall = transformed(box(1, 200, 400), [0.51, 100, 0]);
  const foot = await measureTest({ ...open, meshes: { ...open.meshes, wall } }, 256, {
    clay: { on: true, occlusion: true, grey: 0.6 },
    rayDepth: { all: 0 },
  });
  expect(Math.abs(foot.mean * scale - 0.3)).toBeLessThan(foot.error * scale + 0.006);
});

test('a pool changes between clay and the scene itself as if each were loaded anew', async () => {
  const scene = testScene(room);
  const camera = scene.document.cameras[0];
  const plain = testRecipe(16, 4);
  const clay = testRecipe(16, 4, { clay: { on: true } });
  const fresh = async (recipe: typeof plain) => {
    const pool = new RenderPool(testKernel(), spawnInline, 1);
    await pool.load(scene, recipe, camera);
    const { film } = await pool.render(scene, recipe, camera);
    pool.close();
    return filmHash(film);
  };
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  const hashes: string[] = [];
  for (const recipe of [plain, clay, plain]) hashes.push(filmHash((await pool.render(scene, recipe, camera)).film));
  pool.close();
  expect(hashes).toEqual([await fresh(plain), await fresh(clay), await fresh(plain)]);
  expect(hashes[1]).not.toBe(hashes[0]);
});
