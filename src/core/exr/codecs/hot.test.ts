import fc from 'fast-check';
import { halfTable, toHalf } from '../half';
import { room } from './hot';
import { halfPlane, numbersOf, numbersOfArranged } from './numbers';
import { arrange, restore } from './predictor';

const bytes = (n: number) => Uint8Array.from({ length: n }, (_, i) => Math.imul(i, 2654435761) >>> 24);

test('every half is the number that it is, from the smallest to none, together and arranged', () => {
  const all = new Uint8Array(Uint16Array.from({ length: 65536 }, (_, h) => h).buffer);
  expect(numbersOf(all).slice()).toEqual(halfTable());
  expect(numbersOfArranged(arrange(all))).toEqual(halfTable());
});

test('every half, and numbers between and beyond them, are rounded as one by one', () => {
  const some = Uint32Array.from({ length: 200_000 }, (_, i) => Math.imul(i, 2654435761));
  const ties = Uint32Array.from({ length: 1 << 16 }, (_, i) => (0x38000000 + (i << 12)) | (i & 1 ? 0x80000000 : 0));
  const small = Float32Array.from({ length: 4096 }, (_, i) => (i - 2048) * 2 ** -26);
  const odd = Float32Array.of(
    65519,
    65520,
    -65536,
    1e30,
    Number.NaN,
    Infinity,
    -Infinity,
    -0,
    2 ** -25,
    2 ** -25 * 1.01,
  );
  for (const values of [new Float32Array(some.buffer), new Float32Array(ties.buffer), small, odd, halfTable()]) {
    const out = new Uint16Array(values.length);
    halfPlane(values, out);
    expect(out).toEqual(Uint16Array.from(values, toHalf));
  }
});

test('the predictor’s arrangement: even bytes first, then differences from 128', () => {
  expect(Array.from(arrange(Uint8Array.from([10, 20, 12, 18, 9])))).toEqual([10, 130, 125, 139, 126]);
});

test('chunks of any length come back from it, whatever came before', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 300 }), (b) => {
      // What it makes, by its definition.
      const apart = [...b.filter((_, i) => i % 2 === 0), ...b.filter((_, i) => i % 2 === 1)];
      const arranged = arrange(b);
      expect(Array.from(arranged)).toEqual(apart.map((v, i) => (i === 0 ? v : (v - apart[i - 1] + 384) & 255)));
      expect(restore(arranged)).toEqual(b);
    }),
    { seed: 3, numRuns: 300 },
  );
  const long = bytes(3 << 20);
  expect(restore(arrange(long)).every((v, i) => v === long[i])).toBe(true);
});

test('memory of a large chunk is not held on to', () => {
  room(1 << 20);
  const { memory } = room(80 << 20);
  expect(memory.byteLength).toBeGreaterThan(80 << 20);
  expect(room(1 << 20).memory.byteLength).toBeLessThan(64 << 20);
});
