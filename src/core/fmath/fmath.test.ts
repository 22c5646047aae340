import fc from 'fast-check';
import * as fmath from '.';

const close = (a: number, b: number, relative: number) => Math.abs(a - b) <= relative * Math.max(1, Math.abs(b));

describe('elementary functions agree with the engine’s', () => {
  const angle = fc.double({ min: -1000, max: 1000, noNaN: true });
  test.each([
    ['sin', fmath.sin, Math.sin, angle],
    ['cos', fmath.cos, Math.cos, angle],
    ['atan', fmath.atan, Math.atan, fc.double({ min: -1e6, max: 1e6, noNaN: true })],
    ['exp', fmath.exp, Math.exp, fc.double({ min: -50, max: 5, noNaN: true })],
    ['log', fmath.log, Math.log, fc.double({ min: 1e-12, max: 1e12, noNaN: true })],
    ['acos', fmath.acos, Math.acos, fc.double({ min: -1, max: 1, noNaN: true })],
  ] as const)('%s', (_, ours, theirs, arbitrary) => {
    fc.assert(
      fc.property(arbitrary, (x) => close(ours(x), theirs(x), 2e-11)),
      { seed: 7, numRuns: 500 },
    );
  });

  test('atan2 keeps the quadrant', () => {
    for (const [y, x] of [
      [1, 1],
      [1, -1],
      [-1, -1],
      [-1, 1],
      [0, -1],
      [1, 0],
      [-1, 0],
      [0, 0],
    ]) {
      expect(fmath.atan2(y, x)).toBeCloseTo(Math.atan2(y, x), 12);
    }
  });

  test('pow and the edges of log and exp', () => {
    expect(fmath.pow(2, 10)).toBeCloseTo(1024, 9);
    expect(fmath.pow(0, 0)).toBe(1);
    expect(fmath.log(0)).toBe(-Infinity);
    expect(fmath.log(-1)).toBeNaN();
    expect(fmath.exp(1000)).toBe(Infinity);
    expect(fmath.exp(-1000)).toBe(0);
  });
});
