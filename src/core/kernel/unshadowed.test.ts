import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { box, plane, transformed } from '../scene';

/** Direct light with nothing in its way, and how much of it is in shadow, against renders with and without what casts it. */
const matt = { base_color: [0.7, 0.5, 0.3], specular_weight: 0 };
const floor = plane(6, 6);
const beam = transformed(box(1.2, 0.05, 0.4), [0.2, 0.8, 0]);
const t: TestScene = {
  meshes: { floor, beam },
  materials: { floor: matt, beam: matt },
  lights: [
    { kind: 'sphere', name: 'bulb', group: 'bulb', power: 30, position: [0.5, 2, 0.3], radius: 0.3 },
    { kind: 'point', name: 'pin', group: 'pin', power: 8, position: [-1, 1.5, -0.5] },
  ],
  environment: [0.3, 0.3, 0.4],
  camera: { position: [0, 0.7, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 22 },
};
const film = { film: { features: ['alpha', 'unshadowed', 'shadowing'] }, rayDepth: { all: 0 } };
const measure = (scene: TestScene, samples: number, change: object = {}) =>
  measureTest(scene, samples, { ...film, ...change }, { size: 16 });
type Measured = Awaited<ReturnType<typeof measure>>;
const planesOf = (m: Measured, name: string) => m.layers.layers.get(name)!.planes;
const onFloor = { scope: { receivers: [{ kind: 'object', name: 'floor' }] } };
const worstOf = (a: readonly Float32Array[], b: readonly Float32Array[]) =>
  Math.max(...a.flatMap((plane, c) => [...plane].map((v, i) => Math.abs(v - b[c][i]))));

test('without shadow × (1 − the share in shadow) is the direct light, pixel by pixel within noise', async () => {
  const m = await measure(t, 256);
  const [open, share] = [planesOf(m, 'unshadowed'), planesOf(m, 'shadowing')];
  const made = open.map((plane, c) => plane.map((v, i) => v * (1 - share[c][i])));
  const direct = planesOf(m, 'class.direct_diffuse');
  expect(Math.max(...share[1])).toBeGreaterThan(0.5);
  expect(Math.min(...share[1])).toBeGreaterThanOrEqual(0);
  expect(worstOf(made, direct)).toBeLessThan(0.12 * Math.max(...direct[0]));
  const mean = (planes: readonly Float32Array[]) => planes[1].reduce((s, v) => s + v, 0) / planes[1].length;
  expect(Math.abs(mean(made) - mean(direct))).toBeLessThan(m.error + 1e-3 * mean(direct));
});

test('without shadow is what the light is when nothing casts, not even the shape of a light', async () => {
  const lights = t.lights!.map((l) => ({ ...l, visible: false }));
  const [own, bare] = [
    await measure({ ...t, lights }, 256, onFloor),
    await measure({ ...t, lights, meshes: { floor } }, 256, onFloor),
  ];
  // What stands there makes the floor less open to the sky, by which lights are chosen: other samples of the same light.
  expect(worstOf(planesOf(own, 'unshadowed'), planesOf(bare, 'unshadowed'))).toBeLessThan(0.03);
  expect(Math.abs(meanOf(own.layers, 'unshadowed', 1) - bare.mean)).toBeLessThan(bare.error + 2e-3 * bare.mean);
  expect(Math.max(...planesOf(bare, 'shadowing').flatMap((p) => [...p]))).toBe(0);
  expect(own.mean).toBeLessThan(0.97 * bare.mean);
});

test('of the lights that are in scope alone', async () => {
  const pin = { scope: { ...onFloor.scope, lights: [{ kind: 'light', name: 'pin' }] } };
  const [own, bare] = [await measure(t, 64, pin), await measure({ ...t, meshes: { floor } }, 64, pin)];
  expect(worstOf(planesOf(own, 'unshadowed'), planesOf(bare, 'beauty'))).toBeLessThan(1e-4);
  // A point’s shadow is whole where no pixel’s edge lies in it.
  expect(Math.max(...planesOf(own, 'shadowing')[0])).toBe(1);
});

test('as the camera sees it through fog', async () => {
  const fog = { density: 0.2, albedo: [0, 0, 0] };
  const m = await measure({ ...t, meshes: { floor }, fog }, 256, onFloor);
  expect(meanOf(m.layers, 'unshadowed', 1)).toBeCloseTo(meanOf(m.layers, 'class.direct_diffuse', 1), 2);
});

test('keeping it changes no bit of the picture, and both layers are made of six planes', async () => {
  const plain = await measure(t, 16, { film: { features: ['alpha'] } });
  const kept = await measure(t, 16);
  expect(planesOf(kept, 'beauty')).toEqual(planesOf(plain, 'beauty'));
  expect(kept.film.spec.planes.count - plain.film.spec.planes.count).toBe(6);
  const one = await measure(t, 16, { film: { features: ['alpha', 'shadowing'] } });
  expect(planesOf(one, 'shadowing')).toEqual(planesOf(kept, 'shadowing'));
});
