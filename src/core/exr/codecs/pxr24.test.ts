import fc from 'fast-check';
import { arrangePxr24, pxr24Bytes, type Rows, restorePxr24 } from './pxr24';

const there = (raw: Uint8Array, block: Rows) => restorePxr24(arrangePxr24(raw, block), block);

test('halves and whole numbers come back to the bit, in any order of channels', () => {
  fc.assert(
    fc.property(
      fc.record({
        types: fc.array(fc.constantFrom('half' as const, 'uint' as const), { minLength: 1, maxLength: 4 }),
        width: fc.integer({ min: 1, max: 30 }),
        rows: fc.integer({ min: 1, max: 16 }),
        seed: fc.nat(),
      }),
      ({ seed, ...block }) => {
        const raw = Uint8Array.from({ length: pxr24Bytes(block) }, (_, i) => Math.imul(i + seed, 2654435761) >>> 24);
        expect(there(raw, block)).toEqual(raw);
      },
    ),
    { seed: 8, numRuns: 100 },
  );
});

test('floats keep fifteen bits of their fraction; none becomes infinite, and what is no number stays none', () => {
  fc.assert(
    fc.property(fc.array(fc.float(), { minLength: 1, maxLength: 50 }), (values) => {
      const own = Float32Array.from(values);
      const block: Rows = { types: ['float'], width: own.length, rows: 1 };
      expect(pxr24Bytes(block)).toBe(3 * own.length);
      const back = new Float32Array(there(new Uint8Array(own.buffer), block).buffer);
      own.forEach((v, i) => {
        if (!Number.isFinite(v)) expect(back[i]).toBe(v);
        else {
          expect(Number.isFinite(back[i])).toBe(true);
          // Half of the last bit kept; of denormals, and where rounding up would be infinite, all of it.
          expect(Math.abs(back[i] - v)).toBeLessThanOrEqual(
            Math.max(Math.abs(v) * 2 ** (Math.abs(v) > 3e38 ? -15 : -16), 2 ** -141),
          );
        }
      });
    }),
    { seed: 9, numRuns: 200 },
  );
});
