import fc from 'fast-check';
import { displaySlope, displayValue } from '../image';
import {
  cellNoise,
  cellWeight2,
  darker,
  efficiency,
  hotPixels,
  noiseFigures,
  noiseMap,
  noiseOf,
  noiseSquares,
  type Rgb,
} from '.';

const grey = (v: Float32Array): Rgb => [v, v, v];

test.each([
  ['an exposure', 0.3],
  [
    'a look',
    { scale: 2, look: { whiteKelvin: null, shoulder: 0.8, contrast: 1.3, curve: [[0.4, 0.5]] as [number, number][] } },
  ],
])('noise is what the display shows of the mean against either half, by %s', (_, exposure) => {
  const value = fc.oneof(fc.double({ min: 0, max: 3, noNaN: true }), fc.double({ min: 0, max: 2000, noNaN: true }));
  const white = typeof exposure === 'number' ? 1 / exposure : 1 / exposure.scale;
  fc.assert(
    fc.property(value, value, (a, b) => {
      const [p, q] = [Float32Array.of(a), Float32Array.of(b)];
      const f = (v: number) => displayValue(v, exposure);
      const [less, more] = [Math.min(p[0], q[0]), Math.max(p[0], q[0])];
      const [low, high] = [f((less + more) / 2) - f(less), f(more) - f((less + more) / 2)];
      const hot = more > white && less <= white && more >= 4 * less;
      const truth = hot ? low * low : (low * low + high * high) / 2;
      expect(Math.abs(noiseSquares(grey(p), grey(q), exposure)[0] - truth)).toBeLessThan(1e-5);
      // Never more than all that can be shown.
      expect(noiseSquares(grey(p), grey(q), exposure)[0]).toBeLessThanOrEqual(1);
    }),
    { seed: 9, numRuns: 500 },
  );
});

test('small differences are seen by the slope of the display', () => {
  for (const v of [0.01, 0.18, 0.7, 3]) {
    const [a, b] = [Float32Array.of(v * 1.001), Float32Array.of(v * 0.999)];
    const truth = (v * 0.002 * displaySlope(v, 1)) / 2;
    expect(Math.sqrt(noiseSquares(grey(a), grey(b), 1)[0]) / truth).toBeCloseTo(1, 2);
  }
});

test('what flickers far above white is hardly seen, and is told as hot pixels and as noise three stops darker', () => {
  const [a, b] = [new Float32Array(400).fill(0.2), new Float32Array(400).fill(0.2)];
  a[210] = 80;
  b[210] = 0.2;
  [a[10], b[10]] = [90, 60];
  // No pixel is off by more than all that can be shown.
  expect(noiseOf(grey(a), grey(b), 20, 20, 1).rms).toBeLessThan(100 / Math.sqrt(400));
  const dark = darker(1, 3);
  const bright = Math.sqrt(noiseSquares(grey(a), grey(b), 1)[10]);
  expect(Math.sqrt(noiseSquares(grey(a), grey(b), dark)[10])).toBeGreaterThan(bright * 2);
  const hot = hotPixels(grey(a), grey(b), 1);
  expect(hot.count).toBe(1);
  expect(hot.ofLight).toBeCloseTo(39.9 / (398 * 0.2 + 40.1 + 75), 4);
});

test('a cell’s weight is what of its noise is seen', () => {
  const n = 4;
  const tile = new Float32Array(6 * 4);
  const put = (half: number, values: number[]) => {
    for (let c = 0; c < 3; c++)
      tile.set(
        values.map((v) => (v * n) / 2),
        (half * 3 + c) * 4,
      );
  };
  put(0, [0.1, 0.5, 2, 0.3]);
  put(1, [0.2, 0.4, 4, 0.3]);
  const cell = { tile, stride: 2, w: 2, h: 2, n };
  const pairs = [
    [0.1, 0.2],
    [0.5, 0.4],
    [2, 4],
  ] as const;
  const seen = pairs.reduce(
    (sum, [a, b]) => sum + noiseSquares(grey(Float32Array.of(a)), grey(Float32Array.of(b)), 1)[0],
    0,
  );
  const plain = pairs.reduce((sum, [a, b]) => sum + (a - b) ** 2 / 4, 0);
  expect(cellWeight2(cell, 1)).toBeCloseTo(seen / plain, 6);
  expect(cellNoise(cell, 1)).toBeCloseTo(Math.sqrt(seen / 4) * 100, 4);
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
  const whole = noiseOf(half(0), half(3), 16, 16, 0.5).rms;
  expect(cellNoise({ tile, stride: 16, w: 16, h: 16, n }, 0.5)).toBeCloseTo(whole, 4);
});

test('efficiency does not change by adding samples alone', () => {
  expect(efficiency(2, 10)).toBeCloseTo(efficiency(1, 40), 12);
  expect(efficiency(0, 10)).toBe(0);
});
