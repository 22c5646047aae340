import { deflateSync, inflateSync } from 'node:zlib';
import fc from 'fast-check';
import { fromHalf, toHalf } from './half';
import { readHeaders } from './read';
import { readPart } from './read-part';
import { type Channel, type Compression, fromBytes } from './types';
import { unpackLines } from './unpack';
import { writeExr } from './write';

/** Any mix of channel types and widths, so that no row is aligned by luck. */
const shape = fc.record({
  types: fc.array(fc.constantFrom('half', 'float', 'uint'), { minLength: 1, maxLength: 5 }),
  w: fc.integer({ min: 1, max: 19 }),
  rows: fc.integer({ min: 1, max: 5 }),
  seed: fc.nat(1e6),
});

const word = (k: number, seed: number) => Math.imul(k + 1, 2654435761 + seed * 2) >>> 0;

test('values are taken apart by channel and line', () => {
  fc.assert(
    fc.property(shape, ({ types, w, rows, seed }) => {
      const channels = types.map((type, i) => ({ name: `c${i}`, type })) as Channel[];
      const size = types.reduce((n, t) => n + (t === 'half' ? 2 : 4), 0) * w * rows;
      const raw = Uint8Array.from({ length: size }, (_, i) => word(i, seed) >>> 24);
      const view = new DataView(raw.buffer);
      const want: number[][] = types.map(() => []);
      let at = 0;
      for (let y = 0; y < rows; y++)
        types.forEach((type, c) => {
          for (let x = 0; x < w; x++) {
            if (type === 'half') want[c].push(fromHalf(view.getUint16(at, true)));
            else want[c].push(type === 'float' ? view.getFloat32(at, true) : view.getUint32(at, true));
            at += type === 'half' ? 2 : 4;
          }
        });
      const planes = types.map((t) => (t === 'uint' ? new Uint32Array(w * rows) : new Float32Array(w * rows)));
      unpackLines(raw, channels, planes, 0, rows, w);
      want.forEach((values, c) => {
        expect(Array.from(planes[c])).toEqual(values);
      });
    }),
    { numRuns: 300, seed: 41 },
  );
});

test('whatever is written at any width, type and compression is read back to the bit', async () => {
  await fc.assert(
    fc.asyncProperty(
      shape,
      fc.constantFrom<Compression>('none', 'rle', 'zips', 'zip', 'piz'),
      async (s, compression) => {
        const height = s.rows * 7;
        const planes = s.types.map((type, c) => {
          const values = Array.from({ length: s.w * height }, (_, i) => word(i * 7 + c, s.seed));
          if (type === 'uint') return Uint32Array.from(values);
          // Runs of one value beside noise, so that some chunks pack and some do not.
          return Float32Array.from(values, (v, i) => (i % 64 < 32 ? c : fromHalf(toHalf(((v >>> 8) - 8e6) / 997))));
        });
        const box = { xMin: 3, yMin: -2, xMax: 2 + s.w, yMax: height - 3 };
        const part = {
          name: 'rgba',
          channels: s.types.map((type, i) => ({ name: `c${i}`, type })) as Channel[],
          planes,
          compression,
          dataWindow: box,
          displayWindow: box,
          attributes: {},
        };
        const { bytes } = await writeExr([part], async (b) => deflateSync(b));
        const source = fromBytes(bytes);
        const file = await readHeaders(source);
        const back = await readPart(source, file, 0, async (b, most) => inflateSync(b, { maxOutputLength: most }));
        back.forEach((plane, c) => {
          expect(Array.from(plane)).toEqual(Array.from(planes[c]));
        });
      },
    ),
    { numRuns: 60, seed: 42 },
  );
});
