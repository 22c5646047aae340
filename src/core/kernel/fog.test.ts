import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';

/** Fog against closed forms, numerical integration, and itself put otherwise. */
const measure = (t: TestScene, samples = 256, change: Record<string, unknown> = {}) => measureTest(t, samples, change);
const near = (value: number, truth: number, tolerance: number) => {
  expect(value).toBeGreaterThan(truth - tolerance);
  expect(value).toBeLessThan(truth + tolerance);
};

/** Looks along −z from z = 4; a ball of fog of radius 3 about the middle: z from −3 to 3. */
const camera = { position: [0, 0, 4], target: [0, 0, 0], focalLengthMm: 2000 };
// A speck keeps the scene from being empty; the ball is about it and the camera, so its middle is at z = 2.
const speck = transformed(box(0.001, 0.001, 0.001), [0, 5, 0]);
const black = { base_color: [0, 0, 0], specular_weight: 0 };
/** The fog's ball as packing places it: about the speck and the camera. */
const centre = [0, 2.5, 2];
const span = (radiusMetres: number): [number, number] => {
  // The view runs along x = 0, y = 0.
  const half = Math.sqrt(radiusMetres ** 2 - centre[1] ** 2);
  return [4 - (centre[2] + half), 4 - (centre[2] - half)];
};
const once = { rayDepth: { fog: 0 } };

test('what is seen through fog fades by e^(−σ·way) [Beer–Lambert]', async () => {
  const wall = transformed(box(1, 1, 0.1), [0, 0, -1]);
  const glow = { ...black, emission_luminance: 10, light: { gains: { fog: 0 } } };
  const { mean } = await measure(
    {
      meshes: { speck, wall },
      materials: { speck: black, wall: glow },
      camera,
      fog: { density: 0.3, radiusMetres: 40 },
    },
    4,
    once,
  );
  near(mean, 10 * Math.exp(-0.3 * 4.95), 2e-3);
});

describe('light scattered once, against numerical integration along the view', () => {
  const density = 0.25;
  const radius = 20;
  const [, to] = [0, span(radius)[1]];
  const hg = (c: number, g: number) => (1 - g * g) / (4 * Math.PI * (1 + g * g - 2 * g * c) ** 1.5);
  /** ∫ σ·albedo·e^(−σ(t + way of the light)) · phase · irradiance dt, by the midpoint rule in the angle at the light. */
  const integral = (light: number[], candela: (cosine: number) => number, g: number) => {
    const along = 4 - light[2];
    const apart = Math.hypot(light[0], light[1]);
    const [from, end] = [Math.atan2(-along, apart), Math.atan2(to - along, apart)];
    const steps = 20000;
    let sum = 0;
    for (let i = 0; i < steps; i++) {
      const angle = from + ((end - from) * (i + 0.5)) / steps;
      const t = along + apart * Math.tan(angle);
      const p = [0, 0, 4 - t];
      const d = Math.hypot(...light.map((c, k) => c - p[k]));
      const s = light.map((c, k) => (c - p[k]) / d);
      const dt = (apart * ((end - from) / steps)) / Math.cos(angle) ** 2;
      sum += density * 0.9 * Math.exp(-density * (t + d)) * hg(-s[2], g) * (candela(-s[1]) / (d * d)) * dt;
    }
    return sum;
  };
  const fog = (anisotropy: number) => ({ density, albedo: [0.9, 0.9, 0.9], anisotropy, radiusMetres: radius });
  const scene = (lights: Record<string, unknown>[], g: number): TestScene => ({
    meshes: { speck },
    materials: { speck: black },
    lights,
    camera,
    fog: fog(g),
  });

  test.each([0, 0.7, -0.4])('a point beside the view, anisotropy %f', async (g) => {
    const light = { kind: 'point', name: 'p', power: 30, position: [0.5, 0, 0] };
    const { mean, error } = await measure(scene([light], g), 256, once);
    near(
      mean,
      integral([0.5, 0, 0], () => 30, g),
      error + 1e-3 * mean,
    );
    expect(error / mean).toBeLessThan(0.02);
  });

  test('a spot that cuts the view', async () => {
    const light = {
      kind: 'spot',
      name: 's',
      power: 30,
      position: [0, 1, 1],
      facing: [0, -1, 0],
      up: [1, 0, 0],
      coneDegrees: 30,
      softness: 0,
    };
    const { mean, error } = await measure(scene([light], 0), 1024, once);
    const edge = Math.cos(Math.PI / 12);
    // The light stands above: the cosine to its axis is that of the way down.
    const truth = integral([0, 1, 1], (up) => (-up > edge ? 30 : 0), 0);
    const own = integral([0, 1, 1], (up) => (up > edge ? 30 : 0), 0);
    near(mean, Math.max(truth, own), error + 0.01 * mean);
  });

  test('a distant light in a ball', async () => {
    const light = { kind: 'distant', name: 'd', power: 100, facing: [0, -1, 0] };
    const { mean, error } = await measure(scene([light], 0.3), 256, once);
    let sum = 0;
    const steps = 4000;
    for (let i = 0; i < steps; i++) {
      const t = (to * (i + 0.5)) / steps;
      // From above, down to the view.
      const way = Math.sqrt(radius ** 2 - (4 - t - centre[2]) ** 2) + centre[1];
      sum += ((density * 0.9 * to) / steps) * Math.exp(-density * (t + way)) * hg(0, 0.3) * 100;
    }
    near(mean, sum, error + 2e-3 * sum);
  });

  test('a small sphere gives what a point of as many candela does', async () => {
    const ball = {
      kind: 'sphere',
      name: 's',
      unit: 'candela',
      power: 30,
      position: [0.5, 0, 0],
      radius: 0.02,
      visible: false,
    };
    const { mean, error } = await measure(scene([ball], 0), 256, once);
    near(
      mean,
      integral([0.5, 0, 0], () => 30, 0),
      error + 0.01 * mean,
    );
  });
});

test('furnace: fog that absorbs nothing cannot be seen in a white world', async () => {
  const { mean, error } = await measure(
    {
      meshes: { speck },
      materials: { speck: black },
      environment: [1, 1, 1],
      camera,
      fog: { density: 0.2, albedo: [1, 1, 1], anisotropy: 0.3, radiusMetres: 5 },
    },
    256,
    { rayDepth: { fog: 64 } },
  );
  near(mean, 1, error + 0.005);
});

describe('within a mesh', () => {
  const lamp = { kind: 'sphere', name: 'l', group: 'lamp', power: 40, position: [0.9, 0.5, 1.2], radius: 0.2 };
  const stand = transformed(box(0.3, 0.3, 0.3), [0.2, -0.4, 0.1]);
  const grey = { base_color: [0.5, 0.5, 0.5] };
  const shared = { lights: [lamp], camera: { position: [0, 0.3, 3], target: [0, 0, 0], focalLengthMm: 40 } };
  const recipe = { rayDepth: { fog: 3, diffuse: 2 } };

  test('it is as fog in a ball of that place and size', async () => {
    const holder = sphere(1, 128);
    const within = await measure(
      {
        meshes: { stand, holder },
        materials: { stand: grey, holder: grey },
        fog: { density: 0.8, albedo: [0.9, 0.8, 0.7], anisotropy: 0.2, within: 'holder' },
        ...shared,
      },
      256,
      recipe,
    );
    // The ball's middle follows from the scene: two specks and the camera put it at the origin.
    const specks = [
      [-3, -3, -3],
      [3, 3, 3],
    ].map((p) => transformed(box(1e-3, 1e-3, 1e-3), p as [number, number, number]));
    const ball = await measure(
      {
        meshes: { stand, a: specks[0], b: specks[1] },
        materials: { stand: grey },
        fog: { density: 0.8, albedo: [0.9, 0.8, 0.7], anisotropy: 0.2, radiusMetres: 1 },
        ...shared,
      },
      256,
      recipe,
    );
    near(within.mean, ball.mean, within.error + ball.error + 0.003 * ball.mean);
    const of = (m: typeof ball, c: string) => meanOf(m.layers, `class.${c}`, 1);
    near(of(within, 'direct_fog'), of(ball, 'direct_fog'), 0.03 * of(ball, 'direct_fog'));
    expect(of(ball, 'direct_fog')).toBeGreaterThan(0.01);
  });

  test('a camera within it sees it around', async () => {
    const holder = sphere(1, 64);
    const { mean } = await measure(
      {
        meshes: { holder },
        materials: { holder: grey },
        environment: [5, 5, 5],
        camera: { position: [0, 0, 0], target: [0, 0, -1], focalLengthMm: 2000 },
        fog: { density: 1, albedo: [0, 0, 0], within: 'holder' },
      },
      16,
    );
    near(mean, 5 * Math.exp(-1), 0.01);
  });

  test('an object that is not there is named', async () => {
    await expect(measure({ meshes: { stand }, fog: { density: 1, within: 'nothing' }, ...shared }, 2)).rejects.toThrow(
      'fog: no object nothing to be within',
    );
  });
});

describe('parts of fog', () => {
  const room: TestScene = {
    meshes: {
      ground: plane(6, 6),
      ball: transformed(sphere(0.4, 32), [0.5, 0.4, 0]),
      pane: transformed(plane(1, 1), [-0.4, 0.9, 0.6]),
    },
    materials: {
      pane: { base_color: [1, 1, 1], transmission_weight: 1, specular_roughness: 0, geometry_thin_walled: true },
    },
    lights: [
      {
        kind: 'spot',
        name: 'beam',
        group: 'beam',
        power: 60,
        position: [-1.5, 2, 0],
        facing: [1, -1, 0],
        up: [0, 0, 1],
        coneDegrees: 30,
      },
      { kind: 'sphere', name: 'bulb', group: 'bulb', power: 20, position: [1, 2, 1], radius: 0.2 },
    ],
    environment: [0.2, 0.2, 0.3],
    camera: { position: [0, 1, 4], target: [0, 0.7, 0], focalLengthMm: 30 },
    fog: { density: 0.15, albedo: [0.9, 0.9, 0.95], anisotropy: 0.4 },
  };
  const settings = {
    rayDepth: { fog: 2, diffuse: 2 },
    film: {
      pairs: [
        { group: 'beam', class: 'direct_fog' },
        { group: 'bulb', class: 'indirect_fog' },
        { group: 'gone', class: 'direct_fog' },
      ],
    },
  };
  const render = (t: TestScene, change: Record<string, unknown> = {}) => measure(t, 16, { ...settings, ...change });

  test('fog alone and the rest add up to the whole', async () => {
    const whole = await render(room);
    const [fog, rest] = [
      await render(room, { film: { only: 'fog' } }),
      await render(room, { film: { only: 'surfaces' } }),
    ];
    const at = (m: typeof whole) => m.layers.layers.get('beauty')!.planes;
    const worst = Math.max(
      ...at(whole).flatMap((p, c) => [...p].map((v, i) => Math.abs(v - at(fog)[c][i] - at(rest)[c][i]))),
    );
    expect(worst).toBeLessThan(1e-5);
    expect(fog.mean).toBeGreaterThan(0.01);
    for (const c of ['direct_fog', 'indirect_fog']) expect(meanOf(rest.layers, `class.${c}`, 1)).toBe(0);
  });

  test('classes and groups sum to the picture, pairs to their group and class', async () => {
    const whole = await render(room);
    const { layers } = whole.layers;
    const sum = (prefix: string) =>
      [...layers.keys()].filter((n) => n.startsWith(prefix)).reduce((s, n) => s + meanOf(whole.layers, n, 1), 0);
    near(sum('class.'), whole.mean, 1e-6);
    near(sum('group.'), whole.mean, 1e-6);
    expect([...layers.keys()].filter((n) => n.startsWith('pair.'))).toEqual([
      'pair.beam.direct_fog',
      'pair.bulb.indirect_fog',
    ]);
    const only = await render({ ...room, lights: [room.lights![0]], environment: null });
    near(
      meanOf(only.layers, 'class.direct_fog', 1),
      meanOf(whole.layers, 'pair.beam.direct_fog', 1),
      0.1 * meanOf(whole.layers, 'pair.beam.direct_fog', 1),
    );
    expect(whole.film.rays().fog).toBeGreaterThan(0);
  });

  test('the gain in fog scales the light that fog scatters to the eye, and nothing else', async () => {
    const single = { ...settings, rayDepth: { fog: 0, diffuse: 0, reflection: 0, transmission: 2 } };
    const lights = (fog: number) => [{ ...room.lights![0], gains: { fog } }];
    const [one, three] = [
      await measure({ ...room, environment: null, lights: lights(1) }, 64, single),
      await measure({ ...room, environment: null, lights: lights(3) }, 64, single),
    ];
    const of = (m: typeof one, c: string) => meanOf(m.layers, `class.${c}`, 1);
    near(of(three, 'direct_fog') / of(one, 'direct_fog'), 3, 0.02);
    near(of(three, 'direct_diffuse') / of(one, 'direct_diffuse'), 1, 1e-5);
  });

  test('at fog depth 0 nothing is missing but what goes on from fog', async () => {
    const ledger = { film: { ledger: 'all' } };
    const [deep, flat] = [
      await measure(room, 16, { ...ledger, rayDepth: { fog: 4 } }),
      await measure(room, 16, { ...ledger, rayDepth: { fog: 0 } }),
    ];
    expect(deep.layers.layers.get('bounce.00')!.planes[0]).toEqual(flat.layers.layers.get('bounce.00')!.planes[0]);
    expect(meanOf(flat.layers, 'class.indirect_fog', 1)).toBe(0);
  });
});
