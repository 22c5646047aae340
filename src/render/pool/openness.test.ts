import { prepareScene } from '@/core/kernel';
import { lathe } from '@/core/scene';
import { filmHash } from '../node/film-digest';
import { measureTest, type TestScene, testKernel, testRecipe, testScene } from '../testing';
import { Inspector } from './inspector';
import { opennessOf } from './openness';
import { RenderPool } from './pool';
import { MAX_PLANES } from './protocol';
import { spawnInline } from './spawn-inline';

const STEPS = 96;
/** A sphere of radius 1 with a round port at its top, so many radians from the axis to its rim. */
const hollow = (rim: number) =>
  lathe(
    Array.from({ length: STEPS + 1 }, (_, i): [number, number] => {
      const t = -Math.PI / 2 + ((Math.PI - rim) * i) / STEPS;
      return [i === 0 ? 0 : Math.cos(t), Math.sin(t)];
    }),
    128,
    { creaseRad: Math.PI },
  );
/** What every place of a sphere sees of the port, weighed by the cosine: its cap's share of the sphere. */
const port = (rim: number) => (1 - Math.cos(rim)) / 2;

function opennessIn(t: TestScene): number[] | null {
  const scene = testScene(t);
  const prepared = prepareScene(testKernel(), scene, MAX_PLANES, 1);
  return opennessOf(new Inspector(testKernel(), prepared, prepared.end), prepared, scene.document.cameras[0], 1, 1);
}

const inside = { position: [-0.2, 0, 0], target: [1, -0.2, 0], focalLengthMm: 20 };
const distant = (name: string, facing: number[]) => ({
  kind: 'distant',
  name,
  group: 'sun',
  unit: 'lux',
  power: 10,
  facing,
});

describe('how open a place is to a sky', () => {
  test.each([0.5, 1, 1.5])('in a sphere with a port of %s radians: its share of the sphere', (rim) => {
    const [open] = opennessIn({ meshes: { hollow: hollow(rim) }, environment: [1, 1, 1], camera: inside })!;
    expect(Math.abs(open - port(rim))).toBeLessThan(0.02);
  });

  test('under the open sky it is whole; where nothing is seen there is nothing to tell', () => {
    const ball = { meshes: { hollow: hollow(0.01) }, environment: [1, 1, 1] as [number, number, number] };
    expect(opennessIn({ ...ball, camera: { position: [0, 0, 6], target: [0, 0, 0] } })).toEqual([1]);
    expect(opennessIn({ ...ball, camera: { position: [0, 0, 6], target: [0, 0, 12] } })).toBeNull();
  });

  test('a clear pane over the port takes nothing away', () => {
    const rim = 1;
    const pane = lathe(
      [
        [0, Math.cos(rim)],
        [Math.sin(rim), Math.cos(rim)],
      ],
      64,
    );
    const glazed = (materials: TestScene['materials']) =>
      opennessIn({ meshes: { hollow: hollow(rim), pane }, materials, environment: [1, 1, 1], camera: inside })![0];
    const clear = { transmission_weight: 1, specular_roughness: 0, geometry_thin_walled: true };
    expect(Math.abs(glazed({ pane: clear }) - port(rim))).toBeLessThan(0.02);
    expect(glazed({})).toBeLessThan(0.01);
  });
});

test('light from far away counts where it arrives: through the port onto what is seen, or not at all', () => {
  const down = { position: [0, 0.2, 0], target: [0.02, -1, 0], focalLengthMm: 200 };
  const lights = [distant('above', [0, -1, 0]), distant('beside', [1, 0, 0])];
  const open = opennessIn({ meshes: { hollow: hollow(0.6) }, lights, environment: null, camera: down })!;
  expect(open[0]).toBe(1);
  expect(open[1]).toBeLessThan(0.01);
});

test('a lamp in a room that is nearly closed has most of the light samples, and light is what it was', async () => {
  const room: TestScene = {
    meshes: { hollow: hollow(0.3) },
    materials: { hollow: { base_color: [0.5, 0.5, 0.5], specular_weight: 0 } },
    lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 3000, position: [0, 0, 0.4], radius: 0.05 }],
    environment: [2, 2, 2],
    camera: inside,
  };
  const { mean, error, film } = await measureTest(room, 128);
  const { shadowByGroup } = film.rays();
  expect(shadowByGroup.lamp).toBeGreaterThan(3 * shadowByGroup.sky);
  // One light alone is never chosen against another: the sum of both is a truth without a choice.
  const alone = await Promise.all(
    [
      { ...room, lights: [] },
      { ...room, environment: null },
    ].map((one) => measureTest(one, 128)),
  );
  const sum = alone.reduce((s, one) => s + one.mean, 0);
  expect(Math.abs(mean - sum)).toBeLessThan(Math.hypot(error, ...alone.map((one) => one.error)));
});

test('another camera is weighed anew, and the first one again as before', async () => {
  const scene = testScene({
    meshes: { hollow: hollow(0.6) },
    lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 20, position: [0, 0, 0.4], radius: 0.05 }],
    environment: [2, 2, 2],
    camera: inside,
  });
  const [within] = scene.document.cameras;
  const outside = { ...within, position: [0, 0, 6], target: [0, 0, 0] } as typeof within;
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  const recipe = testRecipe(16, 4);
  const hashes = [];
  for (const camera of [within, outside, within])
    hashes.push(filmHash((await pool.render(scene, recipe, camera)).film));
  pool.close();
  const fresh = new RenderPool(testKernel(), spawnInline, 1);
  await fresh.load(scene);
  hashes.push(filmHash((await fresh.render(scene, recipe, outside)).film));
  fresh.close();
  expect(hashes[2]).toBe(hashes[0]);
  expect(hashes[3]).toBe(hashes[1]);
});
