import { LIGHT_PARTS, MOST_GROUPS, namedGroups, type Scene, UNASSIGNED, withGroups } from '@/core/scene';
import { renderTest, type TestScene, testRecipe, testScene } from '@/render/testing';
import { tally } from '../film';
import { plane, sphere, transformed } from '../scene';
import { LIGHT_SIGHTS, MAX_GROUPS } from './layout';

/** Which light group light is booked under. */
const layersOfTest = async (scene: Scene, size: number, samples: number) =>
  (await renderTest(scene, testRecipe(size, samples, { film: { groups: true } }))).layers;
const lamps = (n: number) =>
  Array.from({ length: n }, (_, i) => ({
    kind: 'point',
    name: `lamp ${i}`,
    group: `lamp_${i}`,
    power: i + 1,
    position: [i / 4 - 2, 1, 0.5],
  }));

test('a film keeps as many light groups, and parts of them, as the kernel has', () => {
  expect(MOST_GROUPS).toBe(MAX_GROUPS);
  expect(LIGHT_PARTS).toEqual(LIGHT_SIGHTS);
});

test('seventeen light groups render: fifteen apart and the rest together, and all sum to the beauty', async () => {
  const t: TestScene = { meshes: { floor: plane(6, 6) }, lights: lamps(17), camera: { position: [0, 3, 3] } };
  const scene = testScene(t);
  expect(namedGroups(scene.document)).toHaveLength(17);
  const film = await layersOfTest(scene, 24, 8);
  expect(tally(film, 'group')!.maxError).toBeLessThan(1e-4);
  const merged = ['light lamp 15', 'light lamp 16'].map((m): [string, string] => [m, UNASSIGNED]);
  const asked = await layersOfTest({ ...scene, document: withGroups(scene.document, new Map(merged)) }, 24, 8);
  expect([...film.layers.keys()]).toEqual([...asked.layers.keys()]);
  for (const [name, layer] of asked.layers)
    if (name !== 'cost') expect([name, film.layers.get(name)!.planes]).toEqual([name, layer.planes]);
});

test('things of one glowing material in two light groups: each group has its own thing’s light, seen and cast', async () => {
  const coal = (x: number) => transformed(sphere(0.3, 24), [x, 0.5, 0]);
  const scene = testScene({
    meshes: { floor: plane(6, 6), left: coal(-1), right: coal(1) },
    materials: { left: { emission_luminance: 9, light_group: 'coals' } },
    camera: { position: [0, 2, 4] },
  });
  const one = {
    ...scene.document,
    objects: scene.document.objects.map((o) => ({ ...o, material: o.name === 'floor' ? 'floor' : 'left' })),
  };
  const both = withGroups(one, new Map([['glow right', 'right']]));
  expect(both.objects.map((o) => o.lightGroup)).toEqual([undefined, 'coals', 'right']);
  const film = await layersOfTest({ ...scene, document: both }, 32, 16);
  const dark = (name: string) => ({
    ...both,
    materials: [
      ...both.materials,
      { ...both.materials.find((m) => m.name === 'left')!, name: 'out', emission_luminance: 0 },
    ],
    objects: both.objects.map((o) => (o.name === name ? { ...o, material: 'out' } : o)),
  });
  const sum = (f: typeof film, layer: string) => f.layers.get(layer)!.planes[0].reduce((s, v) => s + v, 0);
  for (const [group, other] of [
    ['coals', 'right'],
    ['right', 'left'],
  ]) {
    const alone = await layersOfTest({ ...scene, document: dark(other) }, 32, 64);
    expect(Math.abs(sum(film, `group.${group}`) / sum(alone, 'beauty') - 1)).toBeLessThan(0.03);
  }
  expect(tally(film, 'group')!.maxError).toBeLessThan(1e-4);
});
