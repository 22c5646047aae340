import fc from 'fast-check';
import { degreesTowards, sideOfB } from './wipe';

const area = (p: [number, number][]) =>
  p.reduce((sum, [x, y], i) => {
    const [u, v] = p[(i + 1) % p.length];
    return sum + (x * v - u * y) / 2;
  }, 0);

test('an upright line gives B all to the right of it, a lying one all below', () => {
  expect(area(sideOfB({ x: 0.25, y: 0.5, degrees: 0 }, 200, 100))).toBeCloseTo(150 * 100);
  const below = sideOfB({ x: 0.5, y: 0.3, degrees: 90 }, 200, 100);
  expect(area(below)).toBeCloseTo(200 * 70);
  expect(Math.min(...below.map(([, y]) => y))).toBeCloseTo(30);
  expect(sideOfB({ x: 1.2, y: 0.5, degrees: 0 }, 200, 100)).toEqual([]);
});

test('both sides of any line make up the picture', () => {
  const at = fc.double({ min: 0, max: 1, noNaN: true });
  fc.assert(
    fc.property(at, at, fc.integer({ min: -360, max: 360 }), (x, y, degrees) => {
      const one = area(sideOfB({ x, y, degrees }, 160, 90));
      const other = area(sideOfB({ x, y, degrees: degrees + 180 }, 160, 90));
      expect(one + other).toBeCloseTo(160 * 90, 3);
      expect(one).toBeGreaterThanOrEqual(-1e-6);
    }),
  );
});

test('the line follows the place it is turned to, in steps of 15 when snapped', () => {
  expect(degreesTowards(0, 50, false)).toBeCloseTo(0);
  expect(degreesTowards(-50, 0, false)).toBe(90);
  expect(degreesTowards(-20, 50, false)).toBe(22);
  expect(degreesTowards(-20, 50, true)).toBe(15);
});
