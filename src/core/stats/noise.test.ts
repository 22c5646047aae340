import fc from 'fast-check';
import { displaySlope, luminance } from '../image';
import { cellNoise, efficiency, noiseFigures, noiseMap, noiseSquares, type Rgb } from '.';

const grey = (v: Float32Array): Rgb => [v, v, v];

/** The definition, pixel by pixel, in double precision. */
function squaresByDefinition(a: Rgb, b: Rgb, w: number, h: number, exposure: number): number[] {
  const mean = a[0].map((_, i) => (luminance(a[0][i], a[1][i], a[2][i]) + luminance(b[0][i], b[1][i], b[2][i])) / 2);
  return Array.from({ length: w * h }, (_, i) => {
    const [x, y] = [i % w, Math.floor(i / w)];
    const near: number[] = [];
    for (let j = Math.max(0, y - 2); j <= Math.min(h - 1, y + 2); j++) {
      for (let k = Math.max(0, x - 2); k <= Math.min(w - 1, x + 2); k++) near.push(mean[j * w + k]);
    }
    near.sort((p, q) => p - q);
    const d = luminance(a[0][i], a[1][i], a[2][i]) - luminance(b[0][i], b[1][i], b[2][i]);
    return (d * displaySlope(near[near.length >> 1], exposure)) ** 2 / 4;
  });
}

// The slope itself jumps by 1.7 % where sRGB turns from line to power; twice that, and a step, may differ.
test('the sliding median gives what the definition gives', () => {
  const picture = fc.integer({ min: 1, max: 14 }).chain((w) =>
    fc.integer({ min: 1, max: 14 }).chain((h) => {
      const plane = fc.array(fc.double({ min: 0, max: 8, noNaN: true }), { minLength: w * h, maxLength: w * h });
      return fc.record({
        w: fc.constant(w),
        h: fc.constant(h),
        a: plane,
        b: plane,
        exposure: fc.constantFrom(0.1, 1, 3),
      });
    }),
  );
  fc.assert(
    fc.property(picture, ({ w, h, a, b, exposure }) => {
      const [p, q] = [grey(Float32Array.from(a)), grey(Float32Array.from(b))];
      const truth = squaresByDefinition(p, q, w, h, exposure);
      const fast = noiseSquares(p, q, w, h, exposure);
      fast.forEach((v, i) => {
        expect(Math.abs(v - truth[i])).toBeLessThanOrEqual(0.045 * truth[i] + 1e-9);
      });
    }),
    { seed: 9, numRuns: 200 },
  );
});

test('a hot pixel does not hide itself', () => {
  const [a, b] = [new Float32Array(400).fill(0.01), new Float32Array(400).fill(0.01)];
  a[210] = 50;
  const squares = noiseSquares(grey(a), grey(b), 20, 20, 1);
  expect(Math.sqrt(squares[210])).toBeGreaterThan(25 * displaySlope(0.01, 1) * 0.95);
});

test('figures: root mean square, percentile and worst over cells, also of a part', () => {
  const squares = new Float32Array(64 * 32).fill(0.0001);
  for (let y = 0; y < 16; y++) squares.fill(0.01, y * 64, y * 64 + 16);
  const whole = noiseFigures(squares, 64, 32);
  expect(whole.rms).toBeCloseTo(Math.sqrt((0.01 + 7 * 0.0001) / 8) * 100, 4);
  expect(whole.worstCell).toBeCloseTo(10, 4);
  const part = noiseFigures(squares, 64, 32, { x: 16, y: 0, width: 48, height: 32 });
  expect(part.rms).toBeCloseTo(1, 4);
  expect(part.p95).toBeCloseTo(1, 4);
});

test('the map of an even field is that field, up to its edges', () => {
  const map = noiseMap(new Float32Array(30 * 20).fill(0.0004), 30, 20);
  for (const v of map) expect(v).toBeCloseTo(2, 4);
});

test('a cell’s own noise is the picture’s when the picture is that cell', () => {
  const n = 8;
  const tile = Float32Array.from({ length: 6 * 256 }, (_, i) => (0.5 + 0.5 * Math.sin(i * 12.9898)) * n);
  const half = (from: number): Rgb =>
    [0, 1, 2].map((c) => tile.slice((from + c) * 256, (from + c + 1) * 256).map((v) => (v * 2) / n)) as unknown as Rgb;
  const whole = noiseFigures(noiseSquares(half(0), half(3), 16, 16, 0.5), 16, 16).rms;
  expect(cellNoise(tile, 16, 16, 16, n, 0.5) / whole).toBeCloseTo(1, 2);
});

test('efficiency does not change by adding samples alone', () => {
  expect(efficiency(2, 10)).toBeCloseTo(efficiency(1, 40), 12);
  expect(efficiency(0, 10)).toBe(0);
});
