import { meanOf, renderTest, type TestScene, testRecipe, testScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';

/** Settings that only move noise about: whatever they are, the picture's mean stays within four standard errors. */
const room: TestScene = {
  meshes: {
    floor: plane(6, 6),
    wall: transformed(box(6, 3, 0.1), [0, 1.5, -1.5]),
    kettle: transformed(sphere(0.5, 32), [-0.7, 0.5, 0]),
    float: transformed(sphere(0.45, 32), [0.6, 0.45, 0.5]),
  },
  materials: {
    floor: { base_color: [0.6, 0.55, 0.5], specular_roughness: 0.4 },
    wall: { base_color: [0.4, 0.5, 0.6] },
    kettle: { base_color: [0.9, 0.6, 0.3], base_metalness: 1, specular_roughness: 0.35 },
    float: { base_color: [1, 1, 1], specular_roughness: 0.25, transmission_weight: 1 },
  },
  lights: [
    { kind: 'sphere', name: 'bulb', group: 'bulb', power: 25, position: [1.2, 2, 1], radius: 0.25 },
    {
      kind: 'rectangle',
      name: 'panel',
      group: 'panel',
      power: 6,
      position: [-1.4, 2.2, 0.8],
      facing: [0.4, -1, -0.3],
      width: 1,
      height: 0.6,
    },
  ],
  environment: [0.15, 0.2, 0.3],
  camera: { position: [0, 1.3, 4.5], target: [0, 0.6, 0], focalLengthMm: 30 },
};

interface Measured {
  mean: number;
  /** One standard error of the mean, from the halves. */
  error: number;
}

async function measured(change: Record<string, unknown>, samples = 48, scene = room): Promise<Measured> {
  const { layers } = await renderTest(testScene(scene), testRecipe(28, samples, change));
  const a = layers.layers.get('half_a')!.planes[1];
  const b = layers.layers.get('half_b')!.planes[1];
  let squares = 0;
  for (let i = 0; i < a.length; i++) squares += (a[i] - b[i]) ** 2 / 4;
  return { mean: meanOf(layers, 'beauty', 1), error: Math.sqrt(squares) / a.length };
}

const plain = measured({}, 256);

function agree(a: Measured, b: Measured): void {
  expect(a.mean).toBeGreaterThan(0.05);
  expect(Math.abs(a.mean - b.mean)).toBeLessThan(4 * Math.hypot(a.error, b.error));
}

describe('the mean does not depend on', () => {
  test.each([
    ['how often the lights are sampled', { sampling: { lightSamples: 8 } }],
    ['diffuse splits', { sampling: { splits: { diffuse: 6 } } }],
    ['reflection splits', { sampling: { splits: { reflection: 6 } } }],
    ['transmission splits', { sampling: { splits: { transmission: 6 } } }],
    ['all of them at once', { sampling: { lightSamples: 3, splits: { diffuse: 2, reflection: 3, transmission: 4 } } }],
    ['where roulette begins', { rayDepth: { rouletteStart: 1 } }],
    ['the seed', { sampling: { seed: 77 } }],
  ])('%s', async (_, change) => {
    agree(await measured(change), await plain);
  });

  test('the pixel filter, in a picture without edges', async () => {
    const even: TestScene = {
      meshes: { floor: plane(40, 40) },
      environment: [0.5, 0.5, 0.5],
      camera: { position: [0, 3, 0.001] },
    };
    const [box1, gauss, tent] = await Promise.all(
      [
        ['box', 1],
        ['gauss', 2],
        ['tent', 3],
      ].map(([kind, widthPx]) => measured({ sampling: { filter: { kind, widthPx } } }, 32, even)),
    );
    agree(box1, gauss);
    agree(box1, tent);
  });
});

test('splits and light samples lower the noise that they are there for', async () => {
  const base = await measured({}, 32);
  const lights = await measured({ sampling: { lightSamples: 8 } }, 32);
  const diffuse = await measured({ sampling: { splits: { diffuse: 8 } } }, 32);
  expect(lights.error).toBeLessThan(base.error);
  expect(diffuse.error).toBeLessThan(base.error * 1.02);
});

test('an outlier limit only takes light away, and the more the lower it is', async () => {
  const means = [];
  for (const stops of [null, 2, 0, -2])
    means.push((await measured({ sampling: { outlierLimit: { first: null, later: stops } } }, 64)).mean);
  for (let i = 1; i < means.length; i++) expect(means[i]).toBeLessThanOrEqual(means[i - 1] * (1 + 1e-6));
  expect(means[3]).toBeLessThan(means[0] * 0.999);
});

describe('a small light', () => {
  const lit = async (change: Record<string, unknown>, target: [number, number, number] = [0, 0, 0]) => {
    const scene: TestScene = {
      meshes: { floor: transformed(plane(0.05, 0.05), target) },
      materials: { floor: { base_color: [0.5, 0.5, 0.5], specular_weight: 0 } },
      lights: [
        { kind: 'sphere', name: 'lamp', group: 'lamp', power: 100, position: [0, 2, 0], radius: 0.05, ...change },
      ],
      camera: { position: [target[0], 0.6, target[2] + 1e-3], target, up: [0, 0, -1], focalLengthMm: 2000 },
    };
    return meanOf((await renderTest(testScene(scene), testRecipe(16, 64))).layers, 'beauty', 1);
  };

  test('falls with the square of its distance', async () => {
    const [near, far] = [await lit({}), await lit({ position: [0, 4, 0] })];
    // E = π L r²/d², times albedo/π [inverse-square law].
    expect(near).toBeCloseTo((0.5 * 100 * 0.05 ** 2) / 4, 4);
    expect(near / far).toBeCloseTo(4, 2);
  });

  test('falls off to the side as cos³ on a level plane: once for the plane, twice for the distance', async () => {
    const cos3 = (2 / Math.hypot(2, 1.5)) ** 3;
    expect((await lit({}, [1.5, 0, 0])) / (await lit({}))).toBeCloseTo(cos3, 2);
  });

  test('gives with its area what it gives with its luminance', async () => {
    expect((await lit({ radius: 0.1 })) / (await lit({ power: 400 }))).toBeCloseTo(1, 2);
  });

  test('of another colour temperature has the same luminance', async () => {
    const luminanceOf = async (kelvin: number) => {
      const scene: TestScene = {
        meshes: { floor: plane(0.05, 0.05) },
        materials: { floor: { base_color: [0.5, 0.5, 0.5], specular_weight: 0 } },
        lights: [
          { kind: 'sphere', name: 'lamp', group: 'lamp', power: 100, position: [0, 2, 0], radius: 0.05, kelvin },
        ],
        camera: { position: [0, 0.6, 1e-3], up: [0, 0, -1], focalLengthMm: 2000 },
      };
      const { layers } = await renderTest(testScene(scene), testRecipe(16, 32));
      const [r, g, b] = [0, 1, 2].map((c) => meanOf(layers, 'beauty', c));
      return 0.2126 * r + 0.7152 * g + 0.0722 * b;
    };
    expect((await luminanceOf(2000)) / (await luminanceOf(9000))).toBeCloseTo(1, 2);
  });
});

test('a light shines from its front only', async () => {
  const behind = async (facing: number[]) => {
    const scene: TestScene = {
      meshes: { floor: plane(0.05, 0.05) },
      lights: [
        {
          kind: 'rectangle',
          name: 'panel',
          group: 'panel',
          power: 5,
          position: [0, 1, 0],
          facing,
          up: [1, 0, 0],
          width: 1,
          height: 1,
        },
      ],
      camera: { position: [0, 0.6, 1e-3], up: [0, 0, -1], focalLengthMm: 2000 },
    };
    return meanOf((await renderTest(testScene(scene), testRecipe(16, 16))).layers, 'group.panel', 1);
  };
  expect(await behind([0, -1, 0])).toBeGreaterThan(0.1);
  expect(await behind([0, 1, 0])).toBe(0);
});
