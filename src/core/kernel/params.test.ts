import fc from 'fast-check';
import { testScene } from '@/render/testing';
import { parseRecipe } from '../recipe';
import { FILTER_TABLE_SIZE, fieldOffset, MEDIA_BYTES, PARAM_FIELDS, SCRATCH } from './layout';
import { cameraAxes, filterTable, writeParams } from './params';

const cameraOf = (camera: Record<string, unknown>) => testScene({ camera }).document.cameras[0];

const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

test('what lies in the scratch area lies apart', () => {
  expect(SCRATCH.params + PARAM_FIELDS.length * 4).toBeLessThanOrEqual(SCRATCH.filter);
  expect(SCRATCH.filter + FILTER_TABLE_SIZE * 4).toBeLessThanOrEqual(SCRATCH.media);
  expect(SCRATCH.media + MEDIA_BYTES).toBeLessThanOrEqual(SCRATCH.material);
});

describe('camera axes', () => {
  const coordinate = fc.double({ min: -50, max: 50, noNaN: true });
  const place = fc.tuple(coordinate, coordinate, coordinate);

  test('are orthonormal and right-handed, and look at the target along −Z', () => {
    fc.assert(
      fc.property(place, place, (position, target) => {
        const away = position.map((c, i) => c - target[i]);
        fc.pre(Math.hypot(...away) > 1e-3);
        const { right, up, back } = cameraAxes(cameraOf({ position, target }));
        for (const [a, b, want] of [
          [right, right, 1],
          [up, up, 1],
          [back, back, 1],
          [right, up, 0],
          [up, back, 0],
          [back, right, 0],
        ] as const)
          expect(dot(a, b)).toBeCloseTo(want, 9);
        const handed = dot(back, [
          right[1] * up[2] - right[2] * up[1],
          right[2] * up[0] - right[0] * up[2],
          right[0] * up[1] - right[1] * up[0],
        ]);
        expect(handed).toBeCloseTo(1, 9);
        expect(dot(back, away)).toBeCloseTo(Math.hypot(...away), 6);
      }),
      { numRuns: 200, seed: 11 },
    );
  });

  test('a camera that looks straight down still has them', () => {
    const { right, up, back } = cameraAxes(cameraOf({ position: [0, 4, 0], target: [0, 0, 0] }));
    expect(back).toEqual([0, 1, 0]);
    expect(Math.abs(dot(right, up))).toBeLessThan(1e-12);
    expect(Math.hypot(...right)).toBeCloseTo(1, 12);
  });
});

describe('the filter’s inverse distribution', () => {
  const at = (table: Float32Array, u: number) => table[Math.round(u * (FILTER_TABLE_SIZE - 1))];

  test.each(['box', 'tent', 'gauss'] as const)('%s rises over its width and is even about its middle', (kind) => {
    const table = filterTable(kind);
    expect(table[0]).toBeCloseTo(-0.5, 3);
    expect(table[FILTER_TABLE_SIZE - 1]).toBeCloseTo(0.5, 3);
    for (let i = 1; i < table.length; i++) expect(table[i]).toBeGreaterThanOrEqual(table[i - 1]);
    for (let i = 0; i < table.length; i++) expect(table[i]).toBeCloseTo(-table[table.length - 1 - i], 3);
  });

  test('box is the straight line', () => {
    for (const u of [0.1, 0.25, 0.5, 0.9]) expect(at(filterTable('box'), u)).toBeCloseTo(u - 0.5, 2);
  });

  test('tent is the root law: x(u) = ½(√(2u) − 1) below the middle', () => {
    const table = filterTable('tent');
    for (let i = 0; i < FILTER_TABLE_SIZE / 2; i++) {
      const u = i / (FILTER_TABLE_SIZE - 1);
      expect(Math.abs(table[i] - 0.5 * (Math.sqrt(2 * u) - 1))).toBeLessThan(1e-3);
    }
  });

  test('gauss holds 68.27 % within one standard deviation, cut at two: quantiles of the cut normal', () => {
    // P(|x| < σ | |x| < 2σ) = 0.682689 / 0.954500, published values of the normal distribution.
    const inside = 0.682689 / 0.9545;
    const table = filterTable('gauss');
    expect(at(table, 0.5 + inside / 2)).toBeCloseTo(0.25, 2);
    expect(at(table, 0.5 - inside / 2)).toBeCloseTo(-0.25, 2);
  });
});

describe('parameters', () => {
  const memory = new ArrayBuffer(SCRATCH.stack);
  const planes = {
    groups: 6,
    classes: -1,
    ledger: -1,
    lost: -1,
    near: -1,
    guides: -1,
    features: { alpha: 9 },
    pairs: {},
    count: 10,
  };
  const read = (field: string) => {
    const view = new DataView(memory, SCRATCH.params);
    const at = fieldOffset(PARAM_FIELDS, field);
    return (PARAM_FIELDS as readonly string[]).includes(`i:${field}`)
      ? view.getInt32(at, true)
      : view.getFloat32(at, true);
  };
  const write = (recipe: object, camera: Record<string, unknown> = {}) =>
    writeParams(memory, 0, parseRecipe(recipe), cameraOf(camera), 2, planes);

  test('the lens radius is half the focal length over the f-stop, and 0 when depth of field is off', () => {
    write({}, { focalLengthMm: 50, fStop: 2, focusMetres: 3 });
    expect(read('lensRadius')).toBeCloseTo(0.0125, 7);
    expect(read('focus')).toBe(3);
    write({ camera: { depthOfField: false } }, { focalLengthMm: 50, fStop: 2 });
    expect(read('lensRadius')).toBe(0);
    expect(read('focus')).toBe(5);
  });

  test('field of view: half the sensor over the focal length, by the frame’s shape', () => {
    write({ size: { width: 400, height: 100 } }, { focalLengthMm: 18, sensorWidthMm: 36 });
    expect(read('tanHalfX')).toBeCloseTo(1, 6);
    expect(read('tanHalfY')).toBeCloseTo(0.25, 6);
  });

  test('outlier limits are stops above display white, whatever the exposure', () => {
    const recipe = { sampling: { outlierLimit: { first: 3, later: null } } };
    write(recipe, { exposure: { ev100: null, stops: 2 } });
    expect(read('outlierFirst')).toBeCloseTo(8 / 4, 5);
    expect(read('outlierLater')).toBeGreaterThan(1e38);
    write(recipe, { exposure: { ev100: 0, stops: 0 } });
    expect(read('outlierFirst')).toBeCloseTo(8 * 1.2, 5);
  });

  test('planes that are not kept are −1', () => {
    write({});
    expect(['planeGroups', 'planeClasses', 'planeAlpha', 'planeCount'].map(read)).toEqual([6, -1, 9, 10]);
  });
});
