import fc from 'fast-check';
import { packWords, unpackWords } from './huffman';
import { packPiz, unpackPiz } from './piz';
import { fromWavelets, toWavelets } from './wavelet';

const some = (n: number, of: (i: number) => number) => Uint16Array.from({ length: n }, (_, i) => of(i));

test('wavelets give back the same words on grids of any size, narrow words and wide', () => {
  fc.assert(
    fc.property(
      fc.record({
        nx: fc.integer({ min: 1, max: 40 }),
        ny: fc.integer({ min: 1, max: 40 }),
        ox: fc.integer({ min: 1, max: 2 }),
        most: fc.constantFrom(1, 255, 16383, 16384, 65535),
        seed: fc.nat(),
      }),
      ({ nx, ny, ox, most, seed }) => {
        const words = some(nx * ny * ox, (i) => (Math.imul(i + seed, 2654435761) >>> 8) % (most + 1));
        const own = words.slice();
        const grid = { start: 0, nx, ny, ox, oy: ox * nx };
        toWavelets(own, grid, most);
        fromWavelets(own, grid, most);
        expect(own).toEqual(words);
      },
    ),
    { seed: 1, numRuns: 200 },
  );
  const even = some(64, () => 7);
  toWavelets(even, { start: 0, nx: 8, ny: 8, ox: 1, oy: 8 }, 7);
  expect(even.filter((v) => v !== 0)).toEqual(Uint16Array.of(7));
});

test('Huffman codes give back the same words: all alike, all apart, long runs, and lengths beyond what is looked up', () => {
  const fibonacci: number[] = [];
  for (let [s, a, b] = [0, 1, 1]; s < 22; s++, [a, b] = [b, a + b]) for (let k = 0; k < a; k++) fibonacci.push(s * 3);
  for (const words of [
    some(1, () => 65535),
    some(5000, () => 4),
    some(65536, (i) => i),
    some(3000, (i) => (i % 300 === 0 ? i : 9)),
    Uint16Array.from(fibonacci),
  ]) {
    const packed = packWords(words, 1 << 20)!;
    expect(unpackWords(packed, words.length)).toEqual(words);
  }
  expect(
    packWords(
      some(5000, () => 4),
      1 << 20,
    )!.length,
  ).toBeLessThan(120);
  expect(
    packWords(
      some(65536, (i) => i),
      1000,
    ),
  ).toBeNull();
});

test('lines of channels of one word and of two come back, and grain takes less room than it did', () => {
  fc.assert(
    fc.property(
      fc.record({
        words: fc.array(fc.integer({ min: 1, max: 2 }), { minLength: 1, maxLength: 4 }),
        width: fc.integer({ min: 1, max: 60 }),
        rows: fc.integer({ min: 1, max: 32 }),
        seed: fc.nat(),
      }),
      ({ words, width, rows, seed }) => {
        const count = words.reduce((a, b) => a + b, 0) * width * rows;
        const values = some(count, (i) => 0x3c00 + ((Math.imul(i + seed, 2654435761) >>> 20) & 63));
        const raw = new Uint8Array(values.buffer);
        const packed = packPiz(raw, { words, width, rows });
        if (packed === null) return;
        expect(packed.length).toBeLessThan(raw.length);
        expect(unpackPiz(packed, { words, width, rows })).toEqual(raw);
      },
    ),
    { seed: 3, numRuns: 100 },
  );
  const black = new Uint8Array(64 * 32 * 2);
  const own = packPiz(black, { words: [1], width: 64, rows: 32 })!;
  expect(own.length).toBeLessThan(100);
  expect(unpackPiz(own, { words: [1], width: 64, rows: 32 })).toEqual(black);
});

test('damaged chunks end in an error or in as many bytes as were expected', () => {
  const block = { words: [1, 2], width: 40, rows: 20 };
  const values = some(2400, (i) => 0x3c00 + ((Math.imul(i, 2654435761) >>> 20) & 31));
  const packed = packPiz(new Uint8Array(values.buffer), block)!;
  let told = 0;
  for (let k = 0; k < 4000; k++) {
    const damaged = packed.slice(0, k % 5 === 0 ? (k * 7) % packed.length : packed.length);
    for (let n = 0; n < 3; n++) damaged[Math.imul(k + n * 977, 40503) % damaged.length] ^= 1 << ((k + n) % 8);
    try {
      expect(unpackPiz(damaged, block).length).toBe(4800);
    } catch (error) {
      told++;
      expect((error as Error).message).toMatch(/cut short|beyond|none|no codes|come to/);
    }
  }
  expect(told).toBeGreaterThan(500);
});
