import fc from 'fast-check';
import { meanOf, renderTest, testRecipe, testScene } from '@/render/testing';
import { plane, sceneSchema, transformed } from '../scene';
import { environmentDistribution, environmentPicture } from '../sky';

const even = (width: number, height: number, value: number) => ({
  width,
  height,
  pixels: new Float32Array(width * height * 3).fill(value),
});

function sceneWith(environment: unknown, pictures: Map<string, ReturnType<typeof even>> = new Map()) {
  const document = sceneSchema.parse({ ...testScene({}).document, environment });
  return { document, geometry: new Uint8Array(0), pictures };
}

describe('the environment’s distribution', () => {
  test('an even environment of luminance 1 holds 4π nits·sr', () => {
    expect(environmentDistribution(even(64, 32, 1)).total).toBeCloseTo(4 * Math.PI, 5);
  });

  test('rows of an even environment follow the sphere: the share above v is (1 − cos πv) / 2', () => {
    const { marginal, conditional } = environmentDistribution(even(16, 32, 2));
    marginal.forEach((m, y) => {
      expect(m).toBeCloseTo((1 - Math.cos((Math.PI * (y + 1)) / 32)) / 2, 5);
    });
    for (let x = 0; x < 16; x++) expect(conditional[5 * 16 + x]).toBeCloseTo((x + 1) / 16, 6);
  });

  test('rises to exactly 1 in every row, black pictures included', () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ min: 0, max: 1e4, noNaN: true }), { minLength: 8 * 4 * 3, maxLength: 8 * 4 * 3 }),
        fc.boolean(),
        (values, black) => {
          const pixels = Float32Array.from(values, (v) => (black ? 0 : v));
          const { marginal, conditional, total } = environmentDistribution({ width: 8, height: 4, pixels });
          expect(marginal[3]).toBe(1);
          for (let y = 0; y < 4; y++) {
            expect(conditional[y * 8 + 7]).toBe(1);
            if (y > 0) expect(marginal[y]).toBeGreaterThanOrEqual(marginal[y - 1]);
            for (let x = 1; x < 8; x++)
              expect(conditional[y * 8 + x]).toBeGreaterThanOrEqual(conditional[y * 8 + x - 1]);
          }
          expect(total).toBeGreaterThanOrEqual(0);
          expect(Number.isFinite(total)).toBe(true);
        },
      ),
      { numRuns: 60, seed: 3 },
    );
  });
});

describe('the environment’s picture', () => {
  test('none is none', () => {
    expect(environmentPicture(sceneWith(null))).toBeNull();
  });

  test('a gradient runs from zenith over horizon to ground', () => {
    const p = environmentPicture(
      sceneWith({ kind: 'gradient', group: 'sky', zenith: [0, 0, 1], horizon: [0, 1, 0], ground: [1, 0, 0] }),
    )!;
    const at = (v: number) => {
      const o = Math.min(p.height - 1, Math.floor(v * p.height)) * p.width * 3;
      return Array.from(p.pixels.subarray(o, o + 3));
    };
    expect(at(0)[2]).toBeGreaterThan(0.95);
    expect(at(0.5)[1]).toBeGreaterThan(0.9);
    expect(at(0.9999)[0]).toBeGreaterThan(0.95);
  });

  test('the moon stands where its direction says: u = ½ + atan2(x, −z)/2π, v = acos(y)/π', () => {
    const direction = [1, 1, -1];
    const p = environmentPicture(
      sceneWith({
        kind: 'gradient',
        group: 'sky',
        zenith: [0, 0, 0],
        horizon: [0, 0, 0],
        ground: [0, 0, 0],
        moon: { direction, angleDegrees: 4, luminance: 10, color: [1, 1, 1] },
      }),
    )!;
    let best = 0;
    for (let i = 0; i < p.width * p.height; i++) if (p.pixels[i * 3] > p.pixels[best * 3]) best = i;
    const u = ((best % p.width) + 0.5) / p.width;
    const v = (Math.floor(best / p.width) + 0.5) / p.height;
    expect(u).toBeCloseTo(0.5 + Math.atan2(1, 1) / (2 * Math.PI), 2);
    expect(v).toBeCloseTo(Math.acos(1 / Math.sqrt(3)) / Math.PI, 2);
  });

  test('a turn moves the picture round without changing it, and scale multiplies it', () => {
    const source = even(8, 2, 0);
    source.pixels.forEach((_, i) => {
      source.pixels[i] = Math.floor(i / 3) % 8;
    });
    const turned = environmentPicture(
      sceneWith(
        { kind: 'picture', group: 'sky', picture: 'dusk', rotationDegrees: 90, scale: 2 },
        new Map([['dusk', source]]),
      ),
    )!;
    expect(Array.from({ length: 8 }, (_, x) => turned.pixels[x * 3])).toEqual([4, 6, 8, 10, 12, 14, 0, 2]);
  });

  test('a turn by part of a pixel is seen and sampled as such: what is behind moves on by that part', async () => {
    // A white half and a black one in a picture of eight columns: 1 column is 45°.
    const source = even(8, 2, 0);
    source.pixels.forEach((_, i) => {
      source.pixels[i] = Math.floor(i / 3) % 8 < 4 ? 1 : 0;
    });
    const pictures = new Map([['dusk', source]]);
    const edge = async (rotationDegrees: number) => {
      const environment = { kind: 'picture', group: 'sky', picture: 'dusk', rotationDegrees };
      const wide = { position: [0, 0, 0], target: [0, 0, -1], focalLengthMm: 18 };
      const scene = { ...testScene({ environment, camera: wide }), pictures };
      const { layers } = await renderTest(scene, testRecipe(64, 16));
      return meanOf(layers, 'beauty');
    };
    // The view is 90° wide: the edge stands in its middle, and goes through it by tan of the turn.
    for (const degrees of [0, 5, 10, 17, -8])
      expect(await edge(degrees)).toBeCloseTo(0.5 - Math.tan((degrees * Math.PI) / 180) / 2, 2);
    // Its light on a matt floor is the same by light samples as by rays that meet it.
    const light = async (change: Record<string, unknown>) => {
      const scene = {
        ...testScene({
          meshes: { wall: transformed(plane(2, 2), [0, 0, 0]) },
          materials: { wall: { base_color: [1, 1, 1], specular_weight: 0 } },
          environment: { kind: 'picture', group: 'sky', picture: 'dusk', rotationDegrees: 30 },
          camera: { position: [0, 3, 0.01], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 200 },
        }),
        pictures,
      };
      return meanOf((await renderTest(scene, testRecipe(16, 512, change))).layers, 'beauty');
    };
    expect(await light({})).toBeCloseTo(0.5, 2);
  });

  test('a picture that is not there is named', () => {
    expect(() => environmentPicture(sceneWith({ kind: 'picture', group: 'sky', picture: 'dusk' }))).toThrow('dusk');
  });
});
