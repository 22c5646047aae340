import fc from 'fast-check';
import { packRuns, unpackRuns } from './rle';

test('runs are two bytes each, what is no run is as it is behind its length', () => {
  const src = Uint8Array.from([...new Array(200).fill(7), 1, 2, 3, 3, 3, 3]);
  const packed = packRuns(src, src.length)!;
  expect([...packed]).toEqual([126, 7, 72, 7, 254, 1, 2, 3, 3]);
  expect(unpackRuns(packed, src.length)).toEqual(src);
});

test('any bytes come back, and none are packed into more', () => {
  const some = fc.array(fc.record({ byte: fc.nat(255), times: fc.integer({ min: 1, max: 300 }) }), { maxLength: 40 });
  fc.assert(
    fc.property(some, (runs) => {
      const src = Uint8Array.from(runs.flatMap((r) => new Array<number>(r.times).fill(r.byte)));
      const packed = packRuns(src, src.length);
      if (packed === null) return;
      expect(packed.length).toBeLessThanOrEqual(src.length);
      expect(unpackRuns(packed, src.length)).toEqual(src);
    }),
    { seed: 5, numRuns: 300 },
  );
  expect(
    packRuns(
      Uint8Array.from({ length: 64 }, (_, i) => i * 37),
      64,
    ),
  ).toBeNull();
});

test('damaged bytes are refused, and never take more room than was expected', () => {
  expect(() => unpackRuns(Uint8Array.of(126, 1), 20)).toThrow('more than 20 bytes');
  expect(() => unpackRuns(Uint8Array.of(200, 1, 2), 60)).toThrow('beyond the chunk');
  expect(() => unpackRuns(Uint8Array.of(3, 1), 60)).toThrow('come to 4 bytes, expected 60');
  expect(() => unpackRuns(Uint8Array.of(5), 6)).toThrow('beyond the chunk');
});
