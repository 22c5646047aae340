import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { decodeSrgb } from '../image';
import { box, merge, plane, sphere, transformed } from '../scene';

/** Surfaces against a white world and against each other. Tolerance: four standard errors and the bias stated. */
const brightness = (t: TestScene, samples = 64, change: Record<string, unknown> = {}) =>
  measureTest(t, samples, change);
const near = (value: number, truth: number, tolerance: number) => {
  expect(value).toBeGreaterThan(truth - tolerance);
  expect(value).toBeLessThan(truth + tolerance);
};

const white: [number, number, number] = [1, 1, 1];
const fine = sphere(1, 96);
/** Smooth normals that lean far off their triangles. */
const coarse = sphere(1, 16);
/** The same ball with flat shading. */
function flat(mesh: typeof coarse) {
  const positions: number[] = [];
  const normals: number[] = [];
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const p = [0, 1, 2].map((k) => [...mesh.positions.subarray(mesh.indices[t + k] * 3, mesh.indices[t + k] * 3 + 3)]);
    const [u, v] = [1, 2].map((k) => p[k].map((c, a) => c - p[0][a]));
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(...n);
    for (const q of p) {
      positions.push(...q);
      normals.push(...n.map((c) => c / l));
    }
  }
  return {
    positions: new Float32Array(positions),
    normals: new Float32Array(normals),
    indices: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
  };
}

const glass = { transmission_weight: 1 };
const milk = {
  transmission_weight: 1,
  transmission_depth: 0.3,
  transmission_color: white,
  transmission_scatter: white,
  specular_roughness: 0,
};
const LOSSLESS: [string, Record<string, unknown>][] = [
  ['matt', { specular_weight: 0 }],
  ['rough matt', { specular_weight: 0, base_diffuse_roughness: 1 }],
  ['matt under a rough highlight', { specular_roughness: 0.5 }],
  ['matt under a sharp highlight', { specular_roughness: 0 }],
  ['matt under a rough coat', { coat_weight: 1, coat_roughness: 0.4 }],
  ['matt under a mirror coat', { coat_weight: 1, coat_roughness: 0 }],
  ['metal 0', { base_metalness: 1, specular_roughness: 0 }],
  ['metal 0.3', { base_metalness: 1, specular_roughness: 0.3 }],
  ['metal 0.6', { base_metalness: 1, specular_roughness: 0.6 }],
  ['metal 1', { base_metalness: 1, specular_roughness: 1 }],
  ['metal under half a coat', { base_metalness: 1, specular_roughness: 0.5, coat_weight: 0.5, coat_roughness: 0.2 }],
  ['glass 0', { ...glass, specular_roughness: 0 }],
  ['glass 0.3', { ...glass, specular_roughness: 0.3 }],
  ['glass 0.6', { ...glass, specular_roughness: 0.6 }],
  ['dense glass 0.6', { ...glass, specular_roughness: 0.6, specular_ior: 1.8 }],
  ['pane 0', { ...glass, specular_roughness: 0, geometry_thin_walled: true }],
  ['pane 0.5', { ...glass, specular_roughness: 0.5, geometry_thin_walled: true }],
  ['glass that spreads colours', { ...glass, specular_roughness: 0, transmission_dispersion_scale: 1 }],
  ['half metal, half glass', { ...glass, base_metalness: 0.5, specular_roughness: 0.4 }],
  ['milk glass', milk],
  ['rough milk glass', { ...milk, specular_roughness: 0.4 }],
  ['a cut-out', { geometry_opacity: 0.4 }],
];

describe('furnace: in a white world a lossless body cannot be seen', () => {
  test.each(LOSSLESS)('%s', async (_, material) => {
    const { mean, error } = await brightness({
      meshes: { ball: fine },
      materials: { ball: { base_color: white, ...material } },
      environment: white,
      camera: { focalLengthMm: 90 },
    });
    near(mean, 1, error + 0.005);
  });

  test.each(
    LOSSLESS.flatMap(([name, material]) => [
      [`${name}, smooth normals`, material, coarse] as const,
      [`${name}, flat`, material, flat(coarse)] as const,
    ]),
  )('on a coarse mesh: %s', async (_, material, ball) => {
    const { mean, error } = await brightness(
      {
        meshes: { ball },
        materials: { ball: { base_color: white, ...material } },
        environment: white,
        camera: { focalLengthMm: 90 },
      },
      32,
    );
    near(mean, 1, error + 0.005);
  });
});

describe('solids within solids', () => {
  /** Seen from straight above: bright above, dark below, so that what is seen is the reflectance. */
  const down = { position: [0, 3, 0], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };
  const lid = (bright: 'zenith' | 'ground') => ({
    kind: 'gradient',
    zenith: bright === 'zenith' ? white : [0, 0, 0],
    horizon: [0, 0, 0],
    ground: bright === 'ground' ? white : [0, 0, 0],
  });
  const clear = { base_color: white, specular_roughness: 0, transmission_weight: 1 };
  const pan = box(2, 0.2, 2);
  const water = transformed(box(1.8, 0.3, 1.8), [0, 0.2, 0]);
  const R = (a: number, b: number) => ((a - b) / (a + b)) ** 2;
  /** Reflectance of parallel faces without absorption, all inner reflections counted. */
  const stack = (...faces: number[]) => {
    const sum = faces.reduce((s, r) => s + r / (1 - r), 0);
    return sum / (1 + sum);
  };

  test('water that overlaps its glass: the stack air, water, glass, air', async () => {
    const { mean } = await brightness(
      {
        meshes: { pan, water },
        materials: {
          pan: { ...clear, transmission_priority: 2, specular_ior: 1.5 },
          water: { ...clear, transmission_priority: 1, specular_ior: 1.333 },
        },
        environment: lid('zenith'),
        camera: down,
      },
      256,
    );
    near(mean, stack(R(1, 1.333), R(1.333, 1.5), R(1.5, 1)), 0.002);
  });

  test('the part that is displaced does not absorb', async () => {
    const { mean, error } = await brightness(
      {
        meshes: { pan, water },
        materials: {
          pan: { ...clear, transmission_priority: 2, specular_ior: 1.0001 },
          water: {
            ...clear,
            transmission_priority: 1,
            specular_ior: 1.0001,
            transmission_color: [1, 0.5, 1],
            transmission_depth: 0.25,
          },
        },
        environment: lid('ground'),
        camera: down,
      },
      64,
    );
    near(mean, 0.5, error + 0.002);
  });

  test('a bubble of air in water is the same as a hole in the water', async () => {
    const drop = sphere(1, 48);
    const bubble = transformed(sphere(0.5, 32), [0.1, 0.1, 0]);
    const turned = {
      ...bubble,
      normals: bubble.normals.map((v) => -v),
      indices: bubble.indices.map((_, i, all) => all[i - (i % 3) + [0, 2, 1][i % 3]]),
    };
    const look = { environment: lid('zenith'), camera: { focalLengthMm: 90 } };
    const wet = { ...clear, specular_ior: 1.333 };
    const a = await brightness({
      meshes: { drop, bubble },
      materials: {
        drop: { ...wet, transmission_priority: 1 },
        bubble: { ...clear, specular_ior: 1, transmission_priority: 2 },
      },
      ...look,
    });
    const b = await brightness({ meshes: { holed: merge([drop, turned]) }, materials: { holed: wet }, ...look });
    near(a.mean, b.mean, a.error + b.error);
    expect(b.mean).toBeGreaterThan(0.05);
  });

  test('a camera inside dyed glass sees what its way out leaves', async () => {
    const { mean, error } = await brightness(
      {
        meshes: { ball: sphere(1, 96) },
        materials: {
          ball: { ...clear, specular_ior: 1.0001, transmission_color: [1, 0.25, 1], transmission_depth: 1 },
        },
        environment: white,
        camera: { position: [0, 0, 0.5], target: [0, 0, 0], focalLengthMm: 2000 },
      },
      16,
    );
    near(mean, 0.25 ** 1.5, error + 0.002);
  });
});

describe('light that passes', () => {
  const floor = transformed(box(6, 0.01, 6), [0, 0, 0]);
  const view = { position: [0, 0.5, 0.001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };
  const matt = { base_color: [0.5, 0.5, 0.5], specular_weight: 0 };
  const clear = { base_color: white, specular_roughness: 0, transmission_weight: 1 };
  const bulb = (radius: number, power: number) => ({ kind: 'sphere', name: 'l', power, position: [0, 4, 0], radius });
  const under = (
    meshes: TestScene['meshes'],
    material: Record<string, unknown>,
    light = bulb(0.1, 400),
    samples = 128,
    diffuse = 0,
  ) =>
    brightness(
      { meshes: { floor, ...meshes }, materials: { floor: matt, cover: material }, lights: [light], camera: view },
      samples,
      { rayDepth: { diffuse } },
    );
  const plate = transformed(box(6, 0.2, 6), [0, 1, 0]);

  test('a solid that asks for it lets shadow rays straight through, dimmed by both faces and its colour', async () => {
    const open = await under({}, {});
    const dyed = { transmission_color: [1, 0.5, 1], transmission_depth: 0.2, transmission_straight_shadows: true };
    const through = await under({ cover: plate }, { ...clear, ...dyed });
    near(
      through.layers.layers.get('class.direct_diffuse')!.planes[1][100] /
        meanOf(open.layers, 'class.direct_diffuse', 1),
      0.96 ** 2 * 0.5,
      0.01,
    );
  });

  test('straight light through a pane is what full transport brings through two faces', async () => {
    const big = bulb(1, 20);
    const pane = await under(
      { cover: transformed(box(6, 0.001, 6), [0, 1, 0]) },
      { ...clear, transmission_straight_shadows: true },
      big,
      64,
    );
    const full = await under({ cover: transformed(box(6, 0.001, 6), [0, 1, 0]) }, clear, big, 1024, 1);
    const R = 0.04;
    // Straight light leaves out what bounces between the two faces.
    near((pane.mean * (1 - R) ** -2 * (1 - R)) / (1 + R), full.mean, full.error + pane.error + 0.01 * full.mean);
  });

  test('half of the light passes a screen of half opacity', async () => {
    const open = await under({}, {});
    const screen = await under({ cover: plate }, { geometry_opacity: 0.25, base_color: [0, 0, 0], specular_weight: 0 });
    near(screen.mean / open.mean, 0.75 ** 2, 0.01);
  });

  test('no more cut-outs are passed than the recipe allows', async () => {
    const t = {
      meshes: { cover: box(6, 6, 0.1) },
      materials: { cover: { geometry_opacity: 0 } },
      environment: white,
      camera: { focalLengthMm: 2000 },
    };
    expect((await brightness(t, 2, { rayDepth: { holes: 2 } })).mean).toBe(1);
    expect((await brightness(t, 2, { rayDepth: { holes: 1 } })).mean).toBe(0);
  });
});

describe('pictures on surfaces', () => {
  const sheet = plane(2, 2);
  const look = { position: [0, 2, 0], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };
  const even = (...rgba: number[]) => ({ width: 1, height: 1, channels: rgba.length, values: Uint8Array.from(rgba) });
  const matt = { base_color: white, specular_weight: 0 };
  const render = (material: Record<string, unknown>, pictures: TestScene['pictures'], rest: Partial<TestScene> = {}) =>
    brightness({
      meshes: { sheet },
      materials: { sheet: material },
      environment: white,
      camera: look,
      pictures,
      ...rest,
    });

  test('colours of bytes are decoded from sRGB, data are not', async () => {
    const grey = even(128, 128, 128);
    const { mean, error } = await render({ ...matt, textures: [{ input: 'base_color', picture: 'p' }] }, { p: grey });
    near(mean, 0.2158605, error + 0.003);
    const cut = await render(
      { ...matt, base_color: [0, 0, 0], textures: [{ input: 'geometry_opacity', picture: 'p', channel: 'b' }] },
      { p: even(0, 0, 51) },
      { camera: { ...look, position: [0, 2, 0] } },
    );
    near(cut.mean, 1 - 0.2, cut.error + 0.003);
  });

  test('one picture of sixteen bits drives a colour decoded and data as it is', async () => {
    const level = 20011;
    const words = { width: 1, height: 1, channels: 3, values: new Uint16Array(3).fill(level) };
    const textures = [
      { input: 'emission_color', picture: 'p' },
      { input: 'geometry_opacity', picture: 'p', channel: 'g' },
    ];
    const glow = { base_color: [0, 0, 0], specular_weight: 0, emission_luminance: 50, emission_color: white, textures };
    const { mean, error } = await render(glow, { p: words }, { environment: null });
    const share = level / 65535;
    near(mean, 50 * decodeSrgb(share) * share, error + 1e-3);
  });

  test('a float picture is emitted as it is, placed by its coordinates', async () => {
    const values = new Float32Array([1, 1, 1, 20, 20, 20, 300, 300, 300, 4000, 4000, 4000]);
    const glow = { base_color: [0, 0, 0], specular_weight: 0, emission_luminance: 2, emission_color: white };
    const at = async (x: number, z: number) => {
      const camera = { position: [x, 2, z], target: [x, 0, z], up: [0, 0, -1], focalLengthMm: 2000 };
      const t = { ...glow, textures: [{ input: 'emission_color', picture: 'p', wrap: 'clamp' }] };
      return (await render(t, { p: { width: 2, height: 2, channels: 3, values } }, { camera, environment: null })).mean;
    };
    // The top left of the picture lies at −x, −z.
    near(await at(-0.9, -0.9), 2, 1e-4);
    near(await at(0.9, -0.9), 40, 1e-3);
    near(await at(-0.9, 0.9), 600, 0.1);
    near(await at(0.9, 0.9), 8000, 1);
  });

  /** Light of a far small ball straight above: what falls on the sheet goes by the cosine of its normal. */
  const above = {
    environment: null,
    lights: [{ kind: 'sphere', name: 'l', power: 1e5, position: [0, 40, 0], radius: 0.4, visible: false }],
  };
  const slope = Math.tan(0.5);

  test('a normal map leans the normal', async () => {
    const plain = await render(matt, {}, above);
    const n = [Math.sin(0.5), 0, Math.cos(0.5)].map((c) => Math.round((c * 0.5 + 0.5) * 255));
    const leaning = { ...matt, textures: [{ input: 'geometry_normal', picture: 'p' }] };
    const { mean, error } = await render(leaning, { p: even(...n) }, above);
    near(mean / plain.mean, Math.cos(0.5), error / plain.mean + 0.01);
  });

  test('a bump map leans it by the slope of its height', async () => {
    const plain = await render(matt, {}, above);
    const ramp = new Float32Array(256).map((_, i) => ((i + 0.5) / 256) * 2 * slope);
    const bumpy = { ...matt, textures: [{ input: 'geometry_bump', picture: 'p', strength: 1 }] };
    const { mean, error } = await render(bumpy, { p: { width: 256, height: 1, channels: 1, values: ramp } }, above);
    near(mean / plain.mean, Math.cos(0.5), error / plain.mean + 0.01);
  });

  test('roughness from a picture is roughness as such', async () => {
    const metal = { base_color: white, base_metalness: 1 };
    const lamp = { kind: 'sphere', name: 'l', power: 100, position: [0.4, 3, 0], radius: 0.1, visible: false };
    const lit = { environment: null, lights: [lamp] };
    const own = await render({ ...metal, specular_roughness: 0.4 }, {}, lit);
    const textures = [{ input: 'specular_roughness', picture: 'p', channel: 'g' }];
    const drawn = await render({ ...metal, specular_roughness: 1, textures }, { p: even(0, 102, 0) }, lit);
    near(drawn.mean, own.mean, 1e-4 * own.mean);
  });

  test('a picture that is not there is named', async () => {
    const t = { ...matt, textures: [{ input: 'base_color', picture: 'gone' }] };
    await expect(render(t, {})).rejects.toThrow('material sheet: no picture gone');
  });
});

test('highlights of stretched roughness are longer across the grain', async () => {
  const sheet = plane(2, 2);
  const lamp = { kind: 'sphere', name: 'l', power: 100, radius: 0.05, visible: false };
  const look = { position: [0, 2, 0], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };
  const from = async (position: number[]) =>
    (
      await brightness({
        meshes: { sheet },
        materials: { sheet: { base_metalness: 1, specular_roughness: 0.4, specular_roughness_anisotropy: 0.8 } },
        lights: [{ ...lamp, position }],
        camera: look,
      })
    ).mean;
  const [alongU, alongV] = [await from([1.4, 2, 0]), await from([0, 2, 1.4])];
  expect(alongU).toBeGreaterThan(3 * alongV);
});

test('glass that spreads colours: each wavelength bends by its own index, all together are white', async () => {
  const flint = { base_color: white, specular_roughness: 0, transmission_weight: 1, specular_ior: 1.62 };
  const lens = sphere(1, 96);
  const lamp = { kind: 'sphere', name: 'l', power: 50, position: [0.5, 0, -4], radius: 0.4 };
  const view = { position: [0, 0, 4], target: [0, 0, 0], focalLengthMm: 60 };
  const render = (scale: number) =>
    brightness(
      {
        meshes: { lens },
        materials: {
          lens: { ...flint, transmission_dispersion_scale: scale, transmission_dispersion_abbe_number: 20 },
        },
        lights: [lamp],
        camera: view,
      },
      256,
    );
  const [plain, spread] = [await render(0), await render(1)];
  const sums = (l: typeof plain) => [0, 1, 2].map((c) => meanOf(l.layers, 'beauty', c));
  const tint = (l: typeof plain) =>
    Math.max(
      ...l.layers.layers
        .get('beauty')!
        .planes[0].map((r, i) => Math.abs(r - l.layers.layers.get('beauty')!.planes[2][i])),
    );
  sums(spread).forEach((v, c) => {
    near(v, sums(plain)[c], spread.error + plain.error + 0.08 * v);
  });
  expect(tint(plain)).toBeLessThan(1e-5);
  expect(tint(spread)).toBeGreaterThan(0.5);
});
