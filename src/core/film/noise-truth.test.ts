import { renderTest, type TestScene, testRecipe, testScene } from '@/render/testing';
import { displayValue, luminance } from '../image';
import { box, merge, plane, sphere, transformed } from '../scene';
import { measureFilm } from '.';

/**
 * The printed noise against the true error on the display: that of the picture against one of many more samples, over five
 * seeds of each scene, with rare and with plain light, with and without outlier limits.
 */
const SIZE = 40;
const SAMPLES = 16;
const REFERENCE = 256;
const SEEDS = [1, 2, 3, 4, 5];

const turned = (m: ReturnType<typeof box>) => ({
  ...m,
  normals: m.normals.map((v) => -v),
  indices: m.indices.map((_, i, all) => all[i - (i % 3) + [0, 2, 1][i % 3]]),
});
const room = turned(transformed(box(4, 3, 4), [0, 1.5, 0]));
const stone = { base_color: [0.7, 0.65, 0.6], specular_roughness: 0.5 };
const inside = { position: [0, 1.4, 1.9], target: [0, 0.8, 0], focalLengthMm: 24 };
const SCENES: Record<string, TestScene> = {
  'a spot on a brass ball': {
    meshes: { room, ball: transformed(sphere(0.4, 48), [0, 0.6, 0]) },
    materials: {
      room: stone,
      ball: { base_metalness: 1, base_color: [0.9, 0.7, 0.3], specular_roughness: 0.12 },
    },
    lights: [
      { kind: 'spot', name: 's', power: 60, position: [1, 2.7, 1], facing: [-0.4, -0.85, -0.4], coneDegrees: 50 },
    ],
    camera: inside,
  },
  'a room lit by a small lamp': {
    meshes: { room, crate: transformed(box(0.8, 0.8, 0.8), [0.4, 0.4, -0.4]) },
    materials: { room: stone, crate: { base_color: [0.3, 0.4, 0.5] } },
    lights: [{ kind: 'sphere', name: 'l', power: 400, position: [-0.8, 2.2, 0.3], radius: 0.06 }],
    camera: inside,
  },
  'glass under the sky': {
    meshes: { floor: plane(6, 6), ball: transformed(sphere(0.7, 48), [0, 0.7, 0]) },
    materials: { floor: stone, ball: { transmission_weight: 1, specular_roughness: 0 } },
    lights: [{ kind: 'distant', name: 'sun', power: 3, facing: [-0.5, -1, -0.3], angleDegrees: 40 }],
    environment: [0.3, 0.35, 0.5],
    camera: { position: [0, 1.2, 4], target: [0, 0.5, 0], focalLengthMm: 45 },
  },
  'a lamp in fog': {
    meshes: { floor: plane(6, 6) },
    materials: { floor: stone },
    lights: [{ kind: 'sphere', name: 'l', power: 30, position: [0, 1, 0], radius: 0.1 }],
    fog: { density: 0.25, anisotropy: 0.4 },
    camera: { position: [0, 1.2, 4], target: [0, 0.8, 0], focalLengthMm: 40 },
  },
  'dark and bright beside each other': {
    meshes: {
      walls: merge([transformed(box(1, 2, 1), [-1.2, 1, 0]), transformed(box(1, 2, 1), [1.2, 1, 0])]),
      floor: plane(8, 8),
    },
    materials: { walls: { base_color: [0.02, 0.02, 0.02], specular_roughness: 0.7 }, floor: stone },
    lights: [
      { kind: 'rectangle', name: 'r', power: 40, width: 1, height: 0.3, position: [0, 2.5, 1], facing: [0, -1, -0.3] },
    ],
    environment: [2, 2.2, 2.6],
    camera: { position: [0, 1.3, 4.5], target: [0, 0.9, 0], focalLengthMm: 35 },
  },
};

async function rendered(scene: TestScene, samples: number, seed: number, limits: object) {
  const { film, layers } = await renderTest(
    testScene(scene),
    testRecipe(SIZE, samples, { sampling: { seed, outlierLimit: limits }, rayDepth: { all: 12 } }),
  );
  const [r, g, b] = layers.layers.get('beauty')!.planes;
  const shown = Array.from(r, (_, i) => displayValue(luminance(r[i], g[i], b[i]), 1));
  return { printed: measureFilm(film, 1).noise!.rms, shown };
}

describe.each([
  ['without outlier limits', { first: null, later: null }],
  ['with outlier limits', { first: 4, later: 2 }],
])('%s', (limited, limits) => {
  test.each(Object.keys(SCENES))('%s: the printed noise is the true one', async (name) => {
    const truth = await rendered(SCENES[name], REFERENCE, 99, limits);
    let [printed, real] = [0, 0];
    for (const seed of SEEDS) {
      const made = await rendered(SCENES[name], SAMPLES, seed, limits);
      printed += made.printed ** 2;
      real += made.shown.reduce((sum, v, i) => sum + (v - truth.shown[i]) ** 2, 0) / made.shown.length;
    }
    const ratio = Math.sqrt(printed / real) / 100;
    // Paths so rare that most halves have met none are in no figure made of them.
    const rare = limited.startsWith('without') && name.includes('brass');
    expect(ratio).toBeGreaterThan(rare ? 0.65 : 0.85);
    expect(ratio).toBeLessThan(1.15);
  });
});
