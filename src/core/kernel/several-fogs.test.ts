import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';

/** Several fogs against closed forms, and against one fog that comes to the same. */
const near = (value: number, truth: number, tolerance: number) => {
  expect(value).toBeGreaterThan(truth - tolerance);
  expect(value).toBeLessThan(truth + tolerance);
};
const black = { base_color: [0, 0, 0], specular_weight: 0 };
const at = (m: ReturnType<typeof box>, x: number, y: number, z: number) => transformed(m, [x, y, z]);
/** Looks along −z from z = 4 at a wall that glows, at z = −0.95. */
const camera = { position: [0, 0, 4], target: [0, 0, 0], focalLengthMm: 2000 };
const wall = at(box(1, 1, 0.1), 0, 0, -1);
const glow = { ...black, emission_luminance: 10, light: { gains: { fog: 0 } } };
/** Extinction alone. */
const dark = (name: string, density: number, more: object = {}) => ({ name, density, albedo: [0, 0, 0], ...more });

test('what is seen through fogs that overlap fades by all of them [Beer–Lambert]', async () => {
  // From 3 to 1 in front of the wall, from 2 to 0, and all the way.
  const scene: TestScene = {
    meshes: { wall, near: at(box(1, 1, 2), 0, 0, 2), far: at(box(1.2, 1.4, 2), 0, 0, 1) },
    materials: { wall: glow },
    camera,
    fogs: [
      dark('thin', 0.1, { radiusMetres: 40 }),
      dark('bank', 0.3, { within: 'near' }),
      dark('haze', 0.2, { within: 'far' }),
    ],
  };
  const { mean } = await measureTest(scene, 4);
  near(mean, 10 * Math.exp(-(0.1 * 4.95 + 0.3 * 2 + 0.2 * 2)), 2e-3);
  // From within both.
  const within = await measureTest({ ...scene, camera: { ...camera, position: [0, 0, 1.5] } }, 4);
  near(within.mean, 10 * Math.exp(-(0.1 * 2.45 + 0.3 * 0.5 + 0.2 * 1.5)), 2e-3);
  // Two fogs in one object.
  const both = await measureTest(
    {
      ...scene,
      meshes: { wall, near: scene.meshes!.near },
      fogs: [dark('a', 0.3, { within: 'near' }), dark('b', 0.25, { within: 'near' })],
    },
    4,
  );
  near(both.mean, 10 * Math.exp(-0.55 * 2), 2e-3);
});

test('light comes through fogs to a surface by what they leave of it, whatever lies in whatever', async () => {
  // A lamp above a black floor that mirrors nothing: what reaches the floor goes straight down.
  const floor = plane(0.2, 0.2);
  const lamp = { kind: 'point', name: 'p', power: 30, position: [0, 3, 0], gains: { fog: 0 } };
  const scene = (fogs: object[]): TestScene => ({
    meshes: { floor, outer: at(sphere(1, 256), 0, 1.5, 0), inner: at(box(0.6, 0.6, 0.6), 0, 1.5, 0) },
    materials: { floor: { base_color: [0.5, 0.5, 0.5], specular_weight: 0 } },
    lights: [lamp],
    camera: { position: [0.4, 0.3, 0], target: [0, 0, 0], up: [0, 1, 0], focalLengthMm: 2000 },
    fogs: fogs as TestScene['fogs'],
  });
  const measured = (fogs: object[]) => measureTest(scene(fogs), 16, { rayDepth: { diffuse: 0, fog: 0 } });
  const objects = [dark('outer', 1e-9, { within: 'outer' }), dark('inner', 1e-9, { within: 'inner' })];
  const clear = await measured(objects);
  const through = await measured([dark('outer', 0.4, { within: 'outer' }), dark('inner', 0.7, { within: 'inner' })]);
  near(through.mean / clear.mean, Math.exp(-(0.4 * 2 + 0.7 * 0.6)), 2e-3);
});

describe('fogs that are one', () => {
  const lamp = { kind: 'sphere', name: 'l', power: 40, position: [0.9, 0.5, 1.2], radius: 0.2 };
  const stand = at(box(0.3, 0.3, 0.3), 0.2, -0.4, 0.1);
  const grey = { base_color: [0.5, 0.5, 0.5] };
  const shared: TestScene = {
    meshes: { stand, holder: sphere(1.2, 64) },
    materials: { stand: grey },
    lights: [lamp],
    camera: { position: [0, 0.3, 3], target: [0, 0, 0], focalLengthMm: 40 },
  };
  const recipe = { rayDepth: { fog: 3, diffuse: 2 } };

  test('fog cut into two of its density looks as it is whole', async () => {
    const fog = { albedo: [0.9, 0.8, 0.7], anisotropy: 0.2, within: 'holder' };
    const whole = await measureTest({ ...shared, fogs: [{ ...fog, density: 0.8 }] }, 256, recipe);
    const cut = await measureTest(
      {
        ...shared,
        fogs: [
          { ...fog, name: 'a', density: 0.3 },
          { ...fog, name: 'b', density: 0.5 },
        ],
      },
      256,
      recipe,
    );
    near(cut.mean, whole.mean, whole.error + cut.error);
    for (const c of ['direct_fog', 'indirect_fog']) {
      const [a, b] = [cut, whole].map((m) => meanOf(m.layers, `class.${c}`, 1));
      expect(b).toBeGreaterThan(0.005);
      near(a, b, 0.03 * b);
    }
  });

  test('where two differ, light scattered once is the sum of what each scatters through both', async () => {
    const [thin, dense] = [
      { albedo: [0.9, 0.9, 0.9], anisotropy: 0.6, density: 0.2, radiusMetres: 3 },
      { albedo: [0.4, 0.4, 0.4], anisotropy: -0.3, density: 0.6, within: 'holder' },
    ];
    const once = { rayDepth: { fog: 0, diffuse: 0 } };
    const of = async (albedos: [number, number]) =>
      meanOf(
        (
          await measureTest(
            {
              ...shared,
              fogs: [thin, dense].map((f, i) => ({ ...f, name: `fog ${i}`, albedo: Array(3).fill(albedos[i]) })),
            },
            1024,
            once,
          )
        ).layers,
        'class.direct_fog',
        1,
      );
    const [both, first, second] = [await of([0.9, 0.4]), await of([0.9, 0]), await of([0, 0.4])];
    expect(Math.min(first, second)).toBeGreaterThan(0.05 * both);
    near(first + second, both, 0.02 * both);
  });
});

test('pairs of group and class are as they are without other fogs: what is kept of spans lies apart from all else', async () => {
  const lamp = (name: string, x: number) => ({ kind: 'point', name, group: name, power: 20, position: [x, 0.8, 0.5] });
  const boxes = Array.from({ length: 15 }, (_, i) => [`box ${i}`, at(box(0.9, 0.9, 0.08), 0, 0, 0.15 * i)] as const);
  const { layers } = await measureTest(
    {
      meshes: Object.fromEntries(boxes),
      lights: [lamp('a', -1), lamp('b', 1)],
      camera: { position: [0, 0.2, 4], target: [0, 0, 0], focalLengthMm: 50 },
      fogs: [
        { name: 'all around', density: 0.2, radiusMetres: 6 },
        ...boxes.map(([name], i) => ({ name, density: 0.1 * (i + 1), within: name })),
      ],
    },
    16,
    {
      rayDepth: { fog: 1 },
      film: {
        pairs: ['a', 'b'].flatMap((group) =>
          ['direct_fog', 'indirect_fog', 'direct_diffuse'].map((c) => ({ group, class: c })),
        ),
      },
    },
  );
  for (const c of ['direct_fog', 'indirect_fog']) {
    const [whole, a, b] = [`class.${c}`, `pair.a.${c}`, `pair.b.${c}`].map((n) => meanOf(layers, n, 1));
    expect(Math.min(a, b)).toBeGreaterThan(0.1 * whole);
    near((a + b) / whole, 1, 1e-5);
  }
  expect(meanOf(layers, 'pair.a.direct_diffuse', 1)).toBe(0);
});

test('furnace: fogs that absorb nothing cannot be seen in a white world, wherever they overlap', async () => {
  const { mean, error } = await measureTest(
    {
      meshes: { a: at(box(1, 1, 1), -0.3, 0, 0), b: at(sphere(0.7, 48), 0.3, 0.1, 0.2) },
      environment: [1, 1, 1],
      camera: { position: [0, 0, 4], target: [0, 0, 0], focalLengthMm: 60 },
      fogs: [
        { name: 'all around', density: 0.1, albedo: [1, 1, 1], anisotropy: 0.3, radiusMetres: 5 },
        { name: 'a', density: 1.2, albedo: [1, 1, 1], within: 'a' },
        { name: 'b', density: 0.8, albedo: [1, 1, 1], anisotropy: -0.5, within: 'b' },
      ],
    },
    256,
    { rayDepth: { fog: 64 } },
  );
  near(mean, 1, error + 0.005);
});

test('sixteen fogs side by side, each in its box', async () => {
  const boxes = Array.from({ length: 16 }, (_, i) => [`box ${i}`, at(box(1, 1, 0.1), 0, 0, 0.2 * i)] as const);
  const { mean } = await measureTest(
    {
      meshes: { wall, ...Object.fromEntries(boxes) },
      materials: { wall: glow },
      camera,
      fogs: boxes.map(([name], i) => dark(name, 0.1 * (i + 1), { within: name })),
    },
    4,
  );
  near(mean, 10 * Math.exp(-0.1 * 0.1 * ((16 * 17) / 2)), 2e-3);
});
