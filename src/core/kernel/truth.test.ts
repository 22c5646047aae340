import { meanOf, measureTest, renderTest, type TestScene, testRecipe, testScene } from '@/render/testing';
import { box, lathe, plane, sphere, transformed } from '../scene';

/** Light against closed forms. Tolerances: four standard errors from the halves, plus the bias stated. */
const brightness = (t: TestScene, samples = 64, change: Record<string, unknown> = {}, layer = 'beauty') =>
  measureTest(t, samples, change, { layer });

const near = (value: number, truth: number, tolerance: number) => {
  expect(value).toBeGreaterThan(truth - tolerance);
  expect(value).toBeLessThan(truth + tolerance);
};

/** A narrow view of the middle of what stands at the origin. */
const closeUp = { focalLengthMm: 200, position: [0, 0, 6] };
const white: [number, number, number] = [1, 1, 1];
const ball = sphere(1, 96);

describe('furnace', () => {
  test('grey matt after one bounce is its albedo', async () => {
    const { mean, error } = await brightness({
      meshes: { ball },
      materials: { ball: { base_color: [0.3, 0.3, 0.3], specular_weight: 0 } },
      environment: white,
      camera: closeUp,
    });
    near(mean, 0.3, error + 0.002);
  });
});

describe('form factors', () => {
  const floor = transformed(plane(0.1, 0.1), [0, 0, 0]);
  const matt = { floor: { base_color: [0.5, 0.5, 0.5], specular_weight: 0 } };
  const view = { position: [0, 0.5, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };

  test('a rectangle overhead [Howell, A catalog of radiation heat transfer configuration factors, B-3]', async () => {
    const [w, h, c] = [1.2, 0.8, 1.0];
    const [x, y] = [w / 2 / c, h / 2 / c];
    const quarter =
      (x / Math.hypot(1, x)) * Math.atan(y / Math.hypot(1, x)) +
      (y / Math.hypot(1, y)) * Math.atan(x / Math.hypot(1, y));
    const factor = (4 * quarter) / (2 * Math.PI);
    const light = {
      kind: 'rectangle',
      name: 'l',
      power: 10,
      position: [0, c, 0],
      facing: [0, -1, 0],
      up: [0, 0, 1],
      width: w,
      height: h,
      visible: false,
    };
    const { mean, error } = await brightness(
      { meshes: { floor }, materials: matt, lights: [light], camera: view },
      256,
    );
    near(mean, 10 * 0.5 * factor, error + 0.003);
  });

  test.each([0.05, 0.6])('a sphere of radius %f overhead: r²/d²', async (r) => {
    const light = { kind: 'sphere', name: 'l', power: 10, position: [0, 1.5, 0], radius: r, visible: false };
    const { mean, error } = await brightness(
      { meshes: { floor }, materials: matt, lights: [light], camera: view },
      256,
    );
    near(mean, (10 * 0.5 * r * r) / 2.25, error + 0.003 * mean);
  });

  test('an even sky over an open floor: the albedo', async () => {
    const { mean, error } = await brightness(
      { meshes: { floor }, materials: matt, environment: [2, 2, 2], camera: view },
      256,
    );
    near(mean, 1, error + 0.004);
  });
});

describe('Fresnel', () => {
  const R = ((1.5 - 1) / (1.5 + 1)) ** 2;
  const straight = { position: [0, 0, 4], focalLengthMm: 2000 };
  const only = (t: TestScene, layer: string, change = {}) => brightness(t, 256, change, layer);
  const glass = { base_color: white, specular_roughness: 0, transmission_weight: 1, specular_ior: 1.5 };
  const facing = lathe(
    [
      [0, -0.05],
      [2, -0.05],
      [2, 0.05],
      [0, 0.05],
    ],
    64,
  );
  const upright = {
    ...facing,
    positions: facing.positions.map(
      (_, i) => facing.positions[i - (i % 3) + [0, 2, 1][i % 3]] * (i % 3 === 2 ? 1 : i % 3 === 1 ? -1 : 1),
    ),
    normals: facing.normals.map((_, i) => facing.normals[i - (i % 3) + [0, 2, 1][i % 3]] * (i % 3 === 1 ? -1 : 1)),
  };

  test('a thin pane reflects 2R/(1+R) and passes the rest', async () => {
    const t = {
      meshes: { pane: upright },
      materials: { pane: { ...glass, geometry_thin_walled: true } },
      environment: white,
      camera: straight,
    };
    const reflected = await only(t, 'class.direct_reflection');
    near(reflected.mean, (2 * R) / (1 + R), 0.001);
  });

  test('a slab, all inner reflections followed, reflects 2R/(1+R); cut at two transmissions less', async () => {
    const t = { meshes: { slab: upright }, materials: { slab: glass }, environment: white, camera: straight };
    const whole = await only(t, 'beauty');
    near(whole.mean, 1, 0.002);
    const first = await only(t, 'class.direct_reflection');
    near(first.mean, R, 0.001);
    const through = await only(t, 'class.indirect_transmission', { rayDepth: { all: 2 } });
    near(through.mean, (1 - R) ** 2, 0.02);
  });

  test('absorption follows the colour to the power of the way', async () => {
    const dyed = { ...glass, specular_ior: 1.0001, transmission_color: [1, 0.25, 1], transmission_depth: 0.2 };
    const { mean, error } = await only(
      { meshes: { slab: upright }, materials: { slab: dyed }, environment: white, camera: straight },
      'beauty',
    );
    near(mean, 0.5, error + 0.002);
  });
});

describe('light through panes', () => {
  const floor = transformed(plane(6, 6), [0, 0, 0]);
  const pane = transformed(box(6, 0.001, 6), [0, 1, 0]);
  const sheet = transformed(plane(6, 6), [0, 1, 0]);
  const view = { position: [0, 0.5, 0.001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };
  const matt = { base_color: [0.5, 0.5, 0.5], specular_weight: 0 };
  const clear = { base_color: white, specular_roughness: 0, transmission_weight: 1, geometry_thin_walled: true };
  const light = { kind: 'sphere', name: 'l', power: 400, position: [0, 4, 0], radius: 0.1 };

  test('shadow rays pass a clear pane straight, and the light is not counted twice', async () => {
    const open = await brightness(
      { meshes: { floor }, materials: { floor: matt }, lights: [light], camera: view },
      128,
      { rayDepth: { diffuse: 0 } },
    );
    const through = await brightness(
      { meshes: { floor, sheet }, materials: { floor: matt, sheet: clear }, lights: [light], camera: view },
      128,
      { rayDepth: { diffuse: 0 } },
    );
    const R = 0.04;
    near(through.mean / open.mean, 1 - (2 * R) / (1 + R), 0.01);
    expect(meanOf(through.layers, 'class.caustic', 1)).toBe(0);
  });

  test('a solid of the same glass blocks them: its light arrives as a caustic', async () => {
    const solid = await brightness(
      {
        meshes: { floor, pane },
        materials: { floor: matt, pane: { ...clear, geometry_thin_walled: false } },
        lights: [{ ...light, radius: 1 }],
        camera: view,
      },
      256,
      { rayDepth: { diffuse: 1 } },
    );
    expect(meanOf(solid.layers, 'class.caustic', 1)).toBeGreaterThan(0);
    expect(meanOf(solid.layers, 'class.direct_diffuse', 1)).toBe(0);
  });
});

test('thin lens: the circle of confusion has the size of the closed form', async () => {
  // A small light at 2 m, focus at 1 m: blur diameter on the focus plane = aperture·(2−1)/2.
  const light = { kind: 'sphere', name: 'l', power: 1000, position: [0, 0, 0], radius: 0.006 };
  const camera = { position: [0, 0, 2], target: [0, 0, 0], focalLengthMm: 100, fStop: 1, focusMetres: 1 };
  const { layers } = await renderTest(testScene({ lights: [light], camera }), testRecipe(64, 1024));
  const plane_ = layers.layers.get('beauty')!.planes[1];
  // An even disc of radius R has a mean squared radius of R²/2.
  let weight = 0;
  let moment = 0;
  plane_.forEach((v, i) => {
    weight += v;
    moment += v * (((i % 64) - 31.5) ** 2 + (Math.floor(i / 64) - 31.5) ** 2);
  });
  const diameterPx = 2 * Math.sqrt((2 * moment) / weight);
  const expected = ((0.1 * (2 - 1)) / 2 / 0.36) * 64;
  near(diameterPx, expected, 0.4);
});
