import fc from 'fast-check';
import { fromHalf, halfTable, toHalf } from '../half';
import { AREA, packLights, unpackLights } from './dwa-light';
import { put, room } from './hot';

const SIDE = 8;

/** A block through a loop that works in place. */
function through(block: Float32Array, way: 'toFrequencies' | 'toValues'): Float32Array {
  const own = room(block.byteLength);
  put(own, own.at[0], block);
  own.loops[way](own.at[0]);
  return new Float32Array(own.memory, own.at[0], AREA).slice();
}

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
      const own = through(block, 'toFrequencies');
      defined(block).forEach((v, i) => {
        expect(Math.abs(own[i] - v)).toBeLessThan(1e-4);
      });
      const back = through(own, 'toValues');
      block.forEach((v, i) => {
        expect(Math.abs(back[i] - v)).toBeLessThan(1e-5);
      });
    }),
    { seed: 1, numRuns: 50 },
  );
  expect(through(new Float32Array(AREA).fill(0.5), 'toFrequencies')[0]).toBeCloseTo(4, 6);
});

test('the order of frequencies begins in the corner and goes to and fro', () => {
  // Corners of zero and one coefficient of one: the cosine that comes back tells which it is.
  const places = Array.from({ length: AREA - 1 }, (_, k) => {
    const words = Uint16Array.from([...(k > 0 ? [0xff00 | k] : []), 0x3c00, 0xff00]);
    const plane = new Uint16Array(AREA);
    const light = { planes: [plane], isPerceptual: true, width: SIDE, rows: SIDE };
    unpackLights([light], new Uint16Array(1), words);
    const found = through(Float32Array.from(plane, fromHalf), 'toFrequencies').map((v) => Math.round(v * 100));
    return found.indexOf(100);
  });
  expect(places.slice(0, 9)).toEqual([1, 8, 16, 9, 2, 3, 10, 17, 24]);
  expect(new Set(places).size).toBe(AREA - 1);
  expect(places[62]).toBe(63);
});

test('blocks at the edge are mirrored: an even picture of any size is its corners alone', () => {
  const plane = new Uint16Array(13 * 11).fill(0x3800);
  const light = { planes: [plane], isPerceptual: true, width: 13, rows: 11 };
  const { dc, ac } = packLights([light]);
  expect(Array.from(dc, fromHalf)).toEqual([4, 4, 4, 4]);
  expect(Array.from(ac)).toEqual([0xff00, 0xff00, 0xff00, 0xff00]);
  const back = new Uint16Array(13 * 11);
  unpackLights([{ ...light, planes: [back] }], dc, ac);
  expect(back).toEqual(plane);
  expect(() => unpackLights([light], dc, ac.subarray(0, 3))).toThrow('cut short');
  expect(() => unpackLights([light], dc.subarray(1), ac)).toThrow('cut short');
});

test('of all halves within an error none has fewer bits than the one that is taken', () => {
  const halves = halfTable();
  const { fewestBits } = room().loops;
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
