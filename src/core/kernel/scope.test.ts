import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';

/** Parts of a scene, each against what it must come to or what another way of leaving things out comes to. */
const matt = { base_color: [0.8, 0.8, 0.8], specular_weight: 0 };
const black = { base_color: [0, 0, 0], specular_weight: 0 };
const view = { position: [0, 0.5, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };
const [radius, height] = [0.6, 1.2];
const floor = plane(8, 8);
const ball = transformed(sphere(radius, 96), [0, height, 0]);
const object = (name: string) => ({ kind: 'object', name });
const measure = (t: TestScene, samples: number, scope: object = {}, change: object = {}) =>
  measureTest(t, samples, { scope, ...change }, { size: 16 });
const near = (a: { mean: number; error: number }, b: { mean: number; error: number }) =>
  expect(Math.abs(a.mean - b.mean)).toBeLessThan(a.error + b.error + 2e-3 * b.mean);

const sky: TestScene = {
  meshes: { floor, ball },
  materials: { floor: matt, ball: black },
  environment: [1, 1, 1],
  camera: view,
};

test('a sphere that casts without being seen leaves 1 less its form factor', async () => {
  const { mean, error, layers } = await measure(sky, 512, { receivers: [object('floor')] });
  expect(Math.abs(mean - 0.8 * (1 - (radius / height) ** 2))).toBeLessThan(error + 2e-3);
  expect(meanOf(layers, 'alpha')).toBe(1);
});

test('what is neither rendered nor casting is not there, glowing or not', async () => {
  near(await measure(sky, 128, { receivers: [object('floor')], casters: [] }), {
    mean: 0.8,
    error: 0,
  });
  const glows: TestScene = {
    ...sky,
    materials: { floor: matt, ball: { ...black, emission_luminance: 5 } },
    environment: [0, 0, 0],
  };
  const only = { receivers: [object('floor')] };
  expect((await measure(glows, 32, only)).mean).toBeGreaterThan(0.5);
  expect((await measure(glows, 32, { ...only, casters: [] })).mean).toBe(0);
});

test('of two things of one glowing material, one alone shines', async () => {
  const t: TestScene = {
    meshes: {
      floor,
      left: transformed(sphere(0.2, 32), [-0.8, 1, 0]),
      right: transformed(sphere(0.2, 32), [0.8, 1, 0]),
    },
    materials: { floor: matt, left: { ...black, emission_luminance: 9 }, right: { ...black, emission_luminance: 9 } },
    camera: view,
  };
  const [both, left] = [await measure(t, 256), await measure(t, 256, { lights: [{ kind: 'glow', name: 'left' }] })];
  near({ mean: 2 * left.mean, error: 2 * left.error }, both);
});

describe('lights in scope', () => {
  const lamp = (name: string, x: number, group: string) => ({
    kind: 'sphere',
    power: 30,
    radius: 0.2,
    position: [x, 1.5, 0],
    name,
    group,
  });
  const t: TestScene = {
    ...sky,
    meshes: { floor },
    lights: [lamp('left', -1, 'lamps'), lamp('right', 1, 'lamps'), lamp('beam', 0, 'beam')],
    environment: [0.2, 0.2, 0.2],
  };

  test.each([
    [[{ kind: 'group', name: 'beam' }], 'group.beam'],
    [[{ kind: 'group', name: 'lamps' }], 'group.lamps'],
  ])('%o alone is the layer of its group', async (lights, layer) => {
    const [own, all] = [await measure(t, 256, { lights }), await measure(t, 256)];
    near(own, { mean: meanOf(all.layers, layer, 1), error: all.error });
    expect(meanOf(own.layers, layer, 1)).toBeCloseTo(own.mean, 6);
  });

  test('one light by its name, or the environment, or none', async () => {
    const [left, right] = [
      await measure(t, 256, { lights: [{ kind: 'light', name: 'left' }] }),
      await measure(t, 256, { lights: [{ kind: 'light', name: 'right' }] }),
    ];
    const all = await measure(t, 256);
    near(
      { mean: left.mean + right.mean, error: left.error + right.error },
      { mean: meanOf(all.layers, 'group.lamps', 1), error: all.error },
    );
    near(await measure(t, 256, { lights: [{ kind: 'environment', name: 'environment' }] }), { mean: 0.16, error: 0 });
    expect((await measure(t, 4, { lights: [] })).mean).toBe(0);
  });

  test('lights and groups keep their numbers: a film of any part names the same layers', async () => {
    const [own, all] = [await measure(t, 2, { lights: [] }), await measure(t, 2)];
    expect([...own.layers.layers.keys()]).toEqual([...all.layers.layers.keys()]);
  });
});

describe('what the camera meets', () => {
  const t: TestScene = {
    meshes: { floor, card: transformed(box(0.16, 0.01, 0.16), [0, 0.25, 0]) },
    materials: { floor: matt, card: matt },
    environment: [1, 1, 1],
    camera: { ...view, focalLengthMm: 30 },
  };
  const alpha = (m: Awaited<ReturnType<typeof measure>>) => meanOf(m.layers, 'alpha');

  test('where others stand: what is behind them, or a hole', async () => {
    const receivers = [object('floor')];
    expect(alpha(await measure(t, 4, { receivers }))).toBe(1);
    const holed = await measure(t, 4, { receivers, others: 'holdout' });
    const alone = await measure(t, 4, { receivers: [object('card')], sky: false });
    expect(alpha(holed)).toBeCloseTo(1 - alpha(alone), 5);
    expect(alpha(alone)).toBeGreaterThan(0.1);
  });

  test('a hole that casts nothing is a hole all the same', async () => {
    const receivers = [object('floor')];
    const [cast, bare] = [
      await measure(t, 64, { receivers, others: 'holdout' }),
      await measure(t, 64, { receivers, others: 'holdout', casters: [] }),
    ];
    expect(alpha(bare)).toBeCloseTo(alpha(cast), 5);
    near(bare, { mean: 0.8 * alpha(bare), error: 0 });
    expect(cast.mean).toBeLessThan(bare.mean - 0.004);
  });

  test('a sky that is not seen shines all the same', async () => {
    const camera = { position: [0, 1, 3], target: [0, 1, 0], focalLengthMm: 30 };
    const [seen, unseen] = [await measure({ ...t, camera }, 16), await measure({ ...t, camera }, 16, { sky: false })];
    expect(seen.mean - unseen.mean).toBeCloseTo(1 - alpha(seen), 2);
    expect(unseen.mean).toBeGreaterThan(0.05);
  });

  test('things that catch shadow are those whose rule says so, bit for bit', async () => {
    const change = { film: { features: ['alpha', 'shadow'] } };
    const scoped = await measure(t, 16, { receivers: [], catchers: [object('floor')], sky: false }, change);
    const ruled = await measureTest(
      {
        ...t,
        environment: { kind: 'gradient', zenith: [1, 1, 1], horizon: [1, 1, 1], ground: [1, 1, 1], gains: { seen: 0 } },
        rules: { floor: { role: 'catcher' }, card: { seenBy: { camera: false } } },
      },
      16,
      change,
      { size: 16 },
    );
    for (const name of ['beauty', 'alpha', 'shadow'])
      expect(scoped.layers.layers.get(name)!.planes).toEqual(ruled.layers.layers.get(name)!.planes);
    expect(meanOf(scoped.layers, 'shadow')).toBeGreaterThan(0.01);
  });

  test('a light’s shape is seen where it is rendered, and shines either way', async () => {
    const lit: TestScene = {
      ...t,
      environment: [0, 0, 0],
      lights: [{ kind: 'sphere', name: 'lamp', power: 30, radius: 0.08, position: [0.2, 0.25, 0.15] }],
    };
    const emission = (m: Awaited<ReturnType<typeof measure>>) => meanOf(m.layers, 'class.emission', 1);
    const seen = await measure(lit, 16, { receivers: [object('floor'), object('lamp')] });
    const unseen = await measure(lit, 16, { receivers: [object('floor')] });
    expect(emission(seen)).toBeGreaterThan(0);
    expect(emission(unseen)).toBe(0);
    expect(meanOf(unseen.layers, 'class.direct_diffuse', 1)).toBeGreaterThan(0);
  });
});

test('fog alone and surfaces alone part every layer between them, bit for bit', async () => {
  const t: TestScene = {
    meshes: { floor, ball: transformed(sphere(0.3, 32), [0, 0.3, 0]) },
    materials: { floor: matt, ball: matt },
    lights: [{ kind: 'sphere', name: 'lamp', power: 20, position: [0.5, 1.2, 0.4], radius: 0.1 }],
    environment: [0.3, 0.3, 0.4],
    camera: { position: [0, 0.6, 2], target: [0, 0.3, 0], focalLengthMm: 35 },
    fog: { density: 0.3 },
  };
  const of = async (only: string) => (await measureTest(t, 16, { film: { only } }, { size: 16 })).layers.layers;
  const [all, fog, surfaces] = [await of('all'), await of('fog'), await of('surfaces')];
  const classes = [...all.keys()].filter((n) => n.startsWith('class.'));
  for (const name of classes) {
    const [whole, a, b] = [all, fog, surfaces].map((l) => l.get(name)!.planes);
    const [own, other] = name.endsWith('_fog') ? [a, b] : [b, a];
    expect(own).toEqual(whole);
    for (const plane of other) expect(plane.every((v) => v === 0)).toBe(true);
  }
  const beauty = all.get('beauty')!.planes;
  // The picture itself is summed sample by sample, so its sum is the same to rounding.
  beauty.forEach((plane, c) => {
    const [a, b] = [fog, surfaces].map((of) => of.get('beauty')!.planes[c]);
    expect(plane.every((v, i) => Math.abs(a[i] + b[i] - v) < 1e-6 * Math.max(1, v))).toBe(true);
  });
});
