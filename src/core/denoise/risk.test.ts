import { riskOf, riskSquares } from './risk';

const [width, height] = [96, 64];

function numbers(seed: number): () => number {
  let s = seed;
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) | 0;
    return ((s >>> 8) + 0.5) / 2 ** 24 - 0.5;
  };
}

/** Three equal planes of what is true at each pixel, with even noise of a standard deviation. */
function picture(next: () => number, of: (x: number, y: number) => number, deviation: number) {
  const plane = Float32Array.from(
    { length: width * height },
    (_, i) => of(i % width, Math.floor(i / width)) + deviation * Math.sqrt(12) * next(),
  );
  return [plane, plane, plane];
}

const stripes = (x: number) => 0.2 + (x % 4 < 2 ? 0.01 : -0.01);
const next = numbers(5);
const plain = { a: picture(next, stripes, 0.02), b: picture(next, stripes, 0.02) };
/** Percent of display white that ±0.01 about 0.2 is, by the slope of sRGB there. */
const slope = (1.055 / 2.4) * 0.2 ** (1 / 2.4 - 1);

test('what filtering flattened is told by its size, though noise is twice as large', () => {
  const flat = { a: picture(next, () => 0.2, 0.002), b: picture(next, () => 0.2, 0.002) };
  const risk = riskOf(riskSquares(plain, flat, 1), width, height);
  expect(risk.rms / slope).toBeGreaterThan(0.9);
  expect(risk.rms / slope).toBeLessThan(1.1);
});

test('a filter that took nothing but noise has next to no risk, and none at all is not negative', () => {
  const right = { a: picture(next, stripes, 0.002), b: picture(next, stripes, 0.002) };
  expect(riskOf(riskSquares(plain, right, 1), width, height).rms).toBeLessThan(0.3 * slope);
  expect(riskOf(riskSquares(plain, plain, 1), width, height).rms).toBeGreaterThanOrEqual(0);
});

test('the worst cell is where detail was flattened', () => {
  const of = (x: number, y: number) => (x < 16 && y < 16 ? 0.2 : stripes(x));
  const half = { a: picture(next, of, 0.002), b: picture(next, of, 0.002) };
  const risk = riskOf(riskSquares(plain, half, 1), width, height);
  expect(risk.worstCell / slope).toBeGreaterThan(0.8);
  expect(risk.rms).toBeLessThan(risk.worstCell / 2);
});
