import { measureTest, type TestScene } from '@/render/testing';
import { box, transformed } from '../scene';

/** What denoising is steered by: data of the first surface that is neither a mirror nor clear glass. */
const SIZE = 16;
const wall = transformed(box(40, 40, 1), [0, 0, -4.5]);
const colour = [0.6, 0.3, 0.1];
const camera = { position: [0, 0, 1], target: [0, 0, 0], focalLengthMm: 200, focusMetres: 3 };
const matt = { base_color: colour, specular_weight: 0 };
const measure = (t: TestScene, film: object = { guides: true }, samples = 64) =>
  measureTest(t, samples, { film }, { size: SIZE });

async function guides(t: TestScene): Promise<{ a: number[]; b: number[]; mean: number[] }> {
  const { layers } = (await measure(t)).layers;
  const at = (half: string) => layers.get(`guides_${half}`)!.planes.map((p) => p[(SIZE * SIZE + SIZE) / 2]);
  const [a, b] = [at('a'), at('b')];
  return { a, b, mean: a.map((v, i) => (v + b[i]) / 2) };
}

test('of a matt wall they are its albedo, its normal and how close it is, in either half', async () => {
  const { a, b } = await guides({ meshes: { wall }, materials: { wall: matt }, environment: [1, 1, 1], camera });
  for (const half of [a, b]) {
    colour.forEach((v, c) => {
      expect(half[c]).toBeCloseTo(v, 5);
    });
    expect(half.slice(3, 6).map((v) => Math.round(v * 1e5) / 1e5)).toEqual([0, 0, 1]);
    // The wall is 5 m away, the camera is sharp at 3 m.
    expect(half[6]).toBeCloseTo(3 / 8, 3);
  }
});

test('in a mirror they are those of what it shows, in the mirror’s colour, as far as light goes', async () => {
  const mirror = transformed(box(40, 40, 1), [0, 0, -0.5]);
  const behind = transformed(box(400, 400, 1), [0, 0, 2.5]);
  const tint = [0.9, 0.5, 0.7];
  const { mean } = await guides({
    meshes: { mirror, behind },
    materials: {
      mirror: {
        base_metalness: 1,
        base_color: tint,
        specular_roughness: 0,
        specular_weight: 1,
        specular_color: [1, 1, 1],
      },
      behind: matt,
    },
    environment: [1, 1, 1],
    camera,
  });
  tint.forEach((v, c) => {
    expect(mean[c] / (v * colour[c])).toBeCloseTo(1, 2);
  });
  const weight = 0.2126 * tint[0] + 0.7152 * tint[1] + 0.0722 * tint[2];
  expect(mean[5] / -weight).toBeCloseTo(1, 2);
  // One metre to the mirror, two back to the wall behind the camera.
  expect(mean[6] / (weight * 0.5)).toBeCloseTo(1, 2);
});

test('through a clear pane they are those of what stands behind it', async () => {
  const pane = transformed(box(40, 40, 0.01), [0, 0, -1]);
  const glass = {
    transmission_weight: 1,
    transmission_color: [1, 1, 1],
    base_color: [1, 1, 1],
    specular_roughness: 0,
    geometry_thin_walled: true,
    specular_ior: 1.0001,
  };
  const { mean } = await guides({
    meshes: { wall, pane },
    materials: { wall: matt, pane: glass },
    environment: [1, 1, 1],
    camera,
  });
  colour.forEach((v, c) => {
    expect(mean[c]).toBeCloseTo(v, 2);
  });
  expect(mean[5]).toBeCloseTo(1, 2);
  expect(mean[6]).toBeCloseTo(3 / 8, 2);
});

test('keeping them changes no bit of the picture', async () => {
  const t: TestScene = { meshes: { wall }, materials: { wall: matt }, environment: [1, 1, 1], camera };
  const [kept, not] = [await measure(t), await measure(t, { guides: false })];
  expect(kept.layers.layers.get('beauty')!.planes).toEqual(not.layers.layers.get('beauty')!.planes);
});
