import fc from 'fast-check';
import { fromHalf, halfTable, toHalf } from '../half';
import { AREA, SIDE, toFrequencies, toValues, ZIGZAG } from './dct';
import { fewestBits } from './dwa-light';

/** The transform by its definition, in double precision [Ahmed et al. 1974]. */
function defined(block: Float32Array): number[] {
  const c = (k: number) => (k === 0 ? Math.sqrt(1 / 8) : 0.5);
  return Array.from({ length: AREA }, (_, i) => {
    const [v, u] = [i >> 3, i & 7];
    let sum = 0;
    for (let y = 0; y < SIDE; y++)
      for (let x = 0; x < SIDE; x++)
        sum +=
          block[y * SIDE + x] * Math.cos(((2 * x + 1) * u * Math.PI) / 16) * Math.cos(((2 * y + 1) * v * Math.PI) / 16);
    return c(u) * c(v) * sum;
  });
}

const blocks = fc.array(fc.float({ min: -8, max: 8, noNaN: true }), { minLength: AREA, maxLength: AREA });

test('cosines are those of the definition, and come back', () => {
  fc.assert(
    fc.property(blocks, (values) => {
      const block = Float32Array.from(values);
      const own = block.slice();
      toFrequencies(own);
      defined(block).forEach((v, i) => {
        expect(Math.abs(own[i] - v)).toBeLessThan(1e-4);
      });
      toValues(own, SIDE);
      block.forEach((v, i) => {
        expect(Math.abs(own[i] - v)).toBeLessThan(1e-5);
      });
    }),
    { seed: 1, numRuns: 50 },
  );
  const flat = new Float32Array(AREA).fill(0.5);
  toFrequencies(flat);
  expect(flat[0]).toBeCloseTo(4, 6);
});

test('rows that hold zeros alone need not be looked at', () => {
  const some = new Float32Array(AREA).map((_, i) => (i < 3 * SIDE ? Math.sin(i) : 0));
  const whole = some.slice();
  toValues(some, 3);
  toValues(whole, SIDE);
  expect(some).toEqual(whole);
});

test('the order of frequencies begins in the corner and goes to and fro', () => {
  expect([...ZIGZAG.subarray(0, 10)]).toEqual([0, 1, 8, 16, 9, 2, 3, 10, 17, 24]);
  expect(new Set(ZIGZAG).size).toBe(AREA);
  expect(ZIGZAG[63]).toBe(63);
});

test('of all halves within an error none has fewer bits than the one that is taken', () => {
  const halves = halfTable();
  const bits = (v: number) => v.toString(2).replaceAll('0', '').length;
  fc.assert(
    fc.property(
      fc.float({ min: -60, max: 60, noNaN: true }),
      fc.double({ min: 1e-5, max: 0.2, noNaN: true }),
      (v, error) => {
        const taken = fewestBits(v, error);
        const off = Math.abs(fromHalf(taken) - v);
        // Halves may lie further apart than the error.
        expect(off).toBeLessThanOrEqual(Math.max(error, Math.abs(fromHalf(toHalf(v)) - v)));
        let fewest = 16;
        for (let h = 0; h < 0x7c00; h++)
          if (Math.abs(halves[h] - Math.abs(v)) <= error) fewest = Math.min(fewest, bits(h));
        expect(bits(taken & 0x7fff)).toBeLessThanOrEqual(fewest);
      },
    ),
    { seed: 2, numRuns: 60 },
  );
});
