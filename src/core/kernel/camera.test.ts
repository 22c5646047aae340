import { filmHash } from '@/render/node/film-digest';
import {
  type measureTest as Measure,
  measureTest,
  renderTest,
  type TestScene,
  testRecipe,
  testScene,
} from '@/render/testing';
import { box, sphere, transformed } from '../scene';

const SIZE = 64;
const measure = (t: TestScene, samples: number, change: Record<string, unknown> = {}) =>
  measureTest(t, samples, change, { size: SIZE });
type Measured = Awaited<ReturnType<typeof Measure>>;

/** Mean place and spread of a picture's light, in pixels from its middle. */
function moments({ layers }: Measured, name = 'beauty') {
  const plane = layers.layers.get(name)!.planes[0];
  let sum = 0;
  const m = { x: 0, y: 0, xx: 0, yy: 0 };
  plane.forEach((v, i) => {
    const x = (i % SIZE) + 0.5 - SIZE / 2;
    const y = Math.floor(i / SIZE) + 0.5 - SIZE / 2;
    sum += v;
    m.x += v * x;
    m.y += v * y;
    m.xx += v * x * x;
    m.yy += v * y * y;
  });
  const [x, y] = [m.x / sum, m.y / sum];
  // A pixel spreads a point over its square.
  return { x, y, xx: m.xx / sum - x * x - 1 / 12, yy: m.yy / sum - y * y - 1 / 12 };
}

describe('out of focus', () => {
  const lens = {
    focalLengthMm: 50,
    sensorWidthMm: 36,
    fStop: 0.1,
    focusMetres: 2,
    position: [0, 0, 5],
    target: [0, 0, 0],
  };
  // Big enough to be met often; its own spread, that of an even disc, is taken off what is measured.
  const sparkMetres = 0.08;
  const spark = (x = 0, y = 0): TestScene => ({
    lights: [{ kind: 'sphere', name: 'spark', power: 1, position: [x, y, 0], radius: sparkMetres }],
    camera: lens,
  });
  const own = ((sparkMetres / 5) * (50 / 36) * SIZE) ** 2 / 4;
  const spread = async (t: TestScene, samples: number) => {
    const m = moments(await measure(t, samples));
    return { xx: m.xx - own, yy: m.yy - own };
  };
  // A lens place l sends the point at 5 m to l·(1/2 − 1/5) on the plane at unit distance [Potmesil & Chakravarty 1981].
  const radius = ((0.05 / (2 * 0.1)) * (1 / 2 - 1 / 5) * (SIZE / 2)) / (36 / 100);

  test('a point becomes an even disc of the thin lens’s circle of confusion', async () => {
    const { xx, yy } = await spread(spark(), 256);
    expect(Math.sqrt(4 * xx) / radius).toBeCloseTo(1, 1);
    expect(Math.sqrt(4 * yy) / radius).toBeCloseTo(1, 1);
  });

  test.each([5, 6])('with %i blades, an even polygon within that circle', async (blades) => {
    const t = spark();
    const { xx, yy } = await spread({ ...t, camera: { ...lens, blades, bladesDegrees: 20 } }, 256);
    const truth = ((radius * radius) / 6) * (2 + Math.cos((2 * Math.PI) / blades));
    expect((xx + yy) / truth).toBeGreaterThan(0.96);
    expect((xx + yy) / truth).toBeLessThan(1.04);
  });

  test('a cat’s eye narrows the disc towards the picture’s corner, not in its middle', async () => {
    const camera = { ...lens, catsEye: 0.8 };
    const middle = await spread({ ...spark(), camera }, 256);
    expect(Math.sqrt(middle.xx / middle.yy)).toBeCloseTo(1, 1);
    const side = await spread({ ...spark(1, 0), camera }, 512);
    // Half way to the side of a square is 0.555 / √2 of the half diagonal at 1 m of 5 · 0.36.
    const d = 1 / (5 * 0.36) / Math.SQRT2;
    expect(Math.sqrt(side.xx / side.yy) / (1 - 0.8 * d)).toBeGreaterThan(0.93);
    expect(Math.sqrt(side.xx / side.yy) / (1 - 0.8 * d)).toBeLessThan(1.07);
  });

  test('a straight edge covers pixels by the part of the disc beyond it', async () => {
    const half = transformed(box(20, 20, 0.001), [-10, 0, 0]);
    const { layers } = await measure({ meshes: { half }, environment: [1, 1, 1], camera: lens }, 256);
    const alpha = layers.layers.get('alpha')!.planes[0];
    for (let x = SIZE / 2 - 10; x < SIZE / 2 + 10; x++) {
      const column = Array.from({ length: SIZE }, (_, y) => alpha[y * SIZE + x]).reduce((a, b) => a + b, 0) / SIZE;
      // The mean over the pixel's width, by eight places in it.
      let truth = 0;
      for (let k = 0; k < 8; k++) {
        const t = Math.min(1, Math.max(-1, -(x + (k + 0.5) / 8 - SIZE / 2) / radius));
        truth += (0.5 + (t * Math.sqrt(1 - t * t) + Math.asin(t)) / Math.PI) / 8;
      }
      expect(Math.abs(column - truth)).toBeLessThan(0.01);
    }
  });

  test('focus on a point is focus at its distance along the axis; depth of field can be switched off', async () => {
    const hash = async (camera: object, change = {}) =>
      filmHash(
        (
          await renderTest(
            testScene({ meshes: { ball: sphere(1, 16) }, environment: [1, 1, 1], camera: { ...lens, ...camera } }),
            testRecipe(16, 4, change),
          )
        ).film,
      );
    const at = await hash({ focusMetres: 2 });
    expect(await hash({ focusMetres: undefined, focusPoint: [0.7, -0.3, 3] })).toBe(at);
    expect(await hash({ focusMetres: undefined })).not.toBe(at);
    expect(await hash({ focusMetres: undefined }, { camera: { depthOfField: false } })).toBe(await hash({ fStop: 0 }));
  });
});

test('lens shift moves the picture by its share of the sensor and keeps uprights upright', async () => {
  const t: TestScene = {
    meshes: { ball: sphere(0.2, 32) },
    environment: [1, 1, 1],
    camera: { position: [0, 0, 5], target: [0, 0, 0] },
  };
  const straight = moments(await measure(t, 64), 'alpha');
  const moved = moments(await measure({ ...t, camera: { ...t.camera, shift: [0.25, 0.125] } }, 64), 'alpha');
  expect(Math.abs(moved.x - straight.x + SIZE / 4)).toBeLessThan(0.1);
  expect(Math.abs(moved.y - straight.y - SIZE / 8)).toBeLessThan(0.1);
  expect(moved.xx / straight.xx).toBeCloseTo(1, 1);
});

test('clip planes look past a wall in front of the camera and end before the far plane', async () => {
  const wall = transformed(box(9, 9, 0.2), [0, 0, 4]);
  const ball = sphere(1, 32);
  const t: TestScene = { meshes: { wall, ball }, environment: [1, 1, 1] };
  const mean = async (clip: object) => {
    const m = await measure({ ...t, camera: { position: [0, 0, 5], target: [0, 0, 0], ...clip } }, 4);
    return { alpha: m.layers.layers.get('alpha')!.planes[0], depth: m.layers.layers.get('depth')!.planes[0] };
  };
  const middle = (SIZE / 2) * SIZE + SIZE / 2;
  expect((await mean({})).depth[middle]).toBeCloseTo(0.9, 2);
  const past = await mean({ clipNear: 2 });
  expect(past.alpha[middle]).toBe(1);
  expect(past.alpha[0]).toBe(0);
  expect(past.depth[middle]).toBeCloseTo(4, 2);
  expect((await mean({ clipNear: 2, clipFar: 3.5 })).alpha[middle]).toBe(0);
  // The plane is flat: off the axis it is just as far along it.
  const edge = await measure(
    { ...t, meshes: { wall }, camera: { position: [0, 0, 5], target: [0, 0, 0], focalLengthMm: 18, clipFar: 0.91 } },
    4,
  );
  expect(Math.min(...edge.layers.layers.get('alpha')!.planes[0])).toBe(1);
});
