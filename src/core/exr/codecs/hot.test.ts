import fc from 'fast-check';
import { halfTable } from '../half';
import { numbersOfHalves } from './hot';
import { addUp, arrange } from './predictor';

/** Numbers of halves by the readable loops. */
function readably(differences: Uint8Array): Float32Array {
  const bytes = differences.slice();
  addUp(bytes);
  const count = bytes.length >> 1;
  return Float32Array.from({ length: count }, (_, i) => halfTable()[bytes[i] | (bytes[i + count] << 8)]);
}

test('every half is the number that it is, from the smallest to none', () => {
  const all = Uint16Array.from({ length: 65536 }, (_, h) => h);
  expect(numbersOfHalves(arrange(new Uint8Array(all.buffer)))).toEqual(halfTable());
});

test('chunks of any length are those of the readable loops, whatever came before', () => {
  const chunk = fc.uint8Array({ maxLength: 700 }).map((b) => b.subarray(0, b.length & ~1));
  fc.assert(
    fc.property(chunk, (bytes) => {
      expect(numbersOfHalves(bytes)!.slice()).toEqual(readably(bytes));
    }),
    { seed: 3, numRuns: 300 },
  );
  const long = Uint8Array.from({ length: 3 << 20 }, (_, i) => Math.imul(i, 2654435761) >>> 24);
  const [own, readable] = [numbersOfHalves(long)!, readably(long)];
  expect(own.every((v, i) => Object.is(v, readable[i]) || (Number.isNaN(v) && Number.isNaN(readable[i])))).toBe(true);
});

test('a chunk that would take too much memory is left to others', () => {
  expect(numbersOfHalves(new Uint8Array(40 << 20))).toBeNull();
  expect(numbersOfHalves(new Uint8Array(3))).toBeNull();
});
