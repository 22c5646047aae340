import { box, plane, type Scene, sceneSchema, sphere, transformed } from '@/core/scene';
import { filmHash } from '../node/film-digest';
import { testKernel, testRecipe, testScene } from '../testing';
import { RenderPool } from './pool';
import { spawnInline } from './spawn-inline';

/** Two balls that share a mesh, a block and a floor that do not, in fog. */
function base(): Scene {
  const scene = testScene({
    meshes: { ground: plane(6, 6), block: transformed(box(0.5, 0.5, 0.5), [0, 0.25, 0.5]), ball: sphere(0.4, 16) },
    materials: { ball: { transmission_weight: 1, specular_roughness: 0.2 } },
    lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 20, position: [1, 3, 2], radius: 0.3 }],
    environment: [0.2, 0.3, 0.4],
    camera: { position: [0, 1, 4], target: [0, 0.4, 0] },
    fog: { density: 0.05 },
  });
  const at = (x: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0.4, 0, 1];
  const others = scene.document.objects.filter((o) => o.name !== 'ball');
  const balls = [-1, 1].map((x, i) => ({ name: `ball ${i}`, mesh: 'ball', material: 'ball', transform: at(x) }));
  return { ...scene, document: { ...scene.document, objects: [...others, ...balls] } };
}
const edit = (scene: Scene, change: Partial<Scene['document']>): Scene => ({
  ...scene,
  document: { ...scene.document, ...change },
});
const shift = (scene: Scene, name: string, x: number) =>
  edit(scene, {
    objects: scene.document.objects.map((o) =>
      o.name === name
        ? {
            ...o,
            transform: (o.transform ?? [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]).map((v, i) =>
              i === 12 ? v + x : v,
            ),
          }
        : o,
    ),
  });

const recipe = testRecipe(16, 4, { film: { ledger: 'all' } });
async function hashOf(pool: RenderPool, scene: Scene): Promise<string> {
  const { film } = await pool.render(scene, recipe, scene.document.cameras[0]);
  return filmHash(film);
}

test.each<[string, 'records' | 'instances' | 'ground' | 'all', (s: Scene) => Scene]>([
  ['a light', 'records', (s) => edit(s, { lights: [{ ...s.document.lights[0], stops: 2 }] })],
  [
    'a material',
    'records',
    (s) =>
      edit(s, {
        materials: s.document.materials.map((m) => ({ ...m, base_color: [0.9, 0.2, 0.1] as [number, number, number] })),
      }),
  ],
  ['fog', 'records', (s) => edit(s, { fogs: s.document.fogs.map((f) => ({ ...f, density: 0.3 })) })],
  ['the sky', 'records', (s) => edit(s, { environment: { ...s.document.environment!, zenith: [3, 1, 1] } as never })],
  ['a placed mesh', 'instances', (s) => shift(s, 'ball 1', -0.6)],
  ['an object of its own', 'ground', (s) => shift(s, 'block', 0.7)],
  [
    'one more light',
    'all',
    (s) =>
      edit(s, {
        lights: [s.document.lights[0], { ...s.document.lights[0], name: 'second', stops: 1 }],
      }),
  ],
  [
    'a solid cut out',
    'all',
    (s) => edit(s, { materials: s.document.materials.map((m) => ({ ...m, geometry_opacity: 0.5 })) }),
  ],
])('an edit of %s rebuilds %s and renders as a scene loaded anew', async (_, expected, change) => {
  const scene = base();
  const pool = new RenderPool(testKernel(), spawnInline, 2);
  await pool.load(scene);
  const before = await hashOf(pool, scene);
  const edited = change(scene);
  const { rebuilt } = await pool.update(edited);
  expect(rebuilt).toBe(expected);
  const after = await hashOf(pool, edited);
  expect(after).not.toBe(before);
  const fresh = new RenderPool(testKernel(), spawnInline, 1);
  await fresh.load(edited);
  expect(after).toBe(await hashOf(fresh, edited));
  // And back again.
  await pool.update(scene);
  expect(await hashOf(pool, scene)).toBe(before);
  for (const p of [pool, fresh]) p.close();
});

test('from frame to frame only what changes its shape is built anew, to the bits of a scene loaded anew', async () => {
  const plain = testScene({
    meshes: {
      sail: box(1, 1, 0.02),
      'shape b': transformed(box(0.4, 1.2, 0.02), [0.3, 0, 0]),
      ball: transformed(sphere(0.4, 16), [1, 0, 0]),
      // Stretched, so that the tree has another number of nodes.
      'shape c': transformed(sphere(0.6, 16), [1, 0.3, 0]),
      floor: transformed(box(6, 0.1, 6), [0, -1, 0]),
    },
    environment: [0.6, 0.4, 0.3],
  });
  const shapes = {
    sail: [
      { frame: 0, mesh: 'sail' },
      { frame: 5, mesh: 'shape b' },
    ],
    ball: [
      { frame: 0, mesh: 'ball' },
      { frame: 5, mesh: 'shape c' },
    ],
  };
  const objects = plain.document.objects.flatMap((o) =>
    o.name.startsWith('shape ') ? [] : [{ ...o, shapes: shapes[o.name as 'sail'] }],
  );
  const scene = { ...plain, document: sceneSchema.parse({ ...plain.document, objects }) };
  const camera = scene.document.cameras[0];
  const pool = new RenderPool(testKernel(), spawnInline, 2);
  await pool.load(scene, recipe, camera, 1);
  const hashes = new Set<string>();
  for (const frame of [1, 4, 2, 3, 1]) {
    const rebuilt = await pool.stand(scene, recipe, camera, frame);
    expect(rebuilt).toBe(hashes.size === 0 ? null : 'shapes');
    const { film } = await pool.render(scene, recipe, camera, { frame });
    const fresh = new RenderPool(testKernel(), spawnInline, 1);
    await fresh.load(scene, recipe, camera, frame);
    const anew = await fresh.render(scene, recipe, camera, { frame });
    expect(filmHash(film)).toBe(filmHash(anew.film));
    hashes.add(filmHash(film));
    fresh.close();
  }
  expect(hashes.size).toBe(4);
  pool.close();
});
