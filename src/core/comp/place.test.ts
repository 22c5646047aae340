import fc from 'fast-check';
import { type Picture, placed } from '.';
import { placingSchema } from './place';

const made = (width: number, height: number, of: (x: number, y: number) => number): Picture => {
  const plane = () => Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
  const alpha = new Float32Array(width * height).fill(1);
  return { width, height, planes: [plane(), plane(), plane(), alpha] };
};
const rule = (more: object = {}) => placingSchema.parse(more);
const sum = (p: Float32Array) => p.reduce((s, v) => s + v, 0);

test('what fits stays as it is, and a part of the frame is that part', () => {
  const p = made(6, 4, (x, y) => x + 10 * y);
  expect(placed(p, rule(), p)).toBe(p);
  const part = placed(p, rule(), p, { x: 2, y: 1, w: 3, h: 2 });
  expect([...part.planes[0]]).toEqual([12, 13, 14, 22, 23, 24]);
  expect([...part.planes[3]]).toEqual([1, 1, 1, 1, 1, 1]);
});

test('a picture covers the frame, fits into it, is stretched to it, or lies pixel for pixel in its middle', () => {
  const p = made(4, 4, () => 1);
  const covered = (fit: string) => sum(placed(p, rule({ fit }), { width: 16, height: 8 }).planes[3]);
  expect(['fill', 'inside', 'stretch', 'pixels'].map(covered)).toEqual([128, 64, 128, 16]);
});

test('even light stays even, at its own edges too, in whatever size and turn; smaller is the mean of what was there', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 3, max: 40 }),
      fc.integer({ min: 3, max: 40 }),
      fc.double({ min: 0.2, max: 4, noNaN: true }),
      fc.double({ min: -180, max: 180, noNaN: true }),
      (w, h, scale, turnDegrees) => {
        const { planes } = placed(
          made(w, h, () => 3),
          rule({ scale, turnDegrees }),
          { width: 23, height: 17 },
        );
        const off = planes[0].reduce((most, v, i) => Math.max(most, Math.abs(v - 3 * planes[3][i])), 0);
        expect(off).toBeLessThan(1e-4);
        expect(planes[3].every((v) => v >= 0)).toBe(true);
      },
    ),
    { seed: 2, numRuns: 40 },
  );
  const checks = made(64, 32, (x, y) => (x + y) % 2);
  for (const v of placed(checks, rule(), { width: 16, height: 8 }).planes[0]) expect(v).toBeCloseTo(0.5, 6);
});

test('turned by a quarter and moved by half the frame it lies there', () => {
  const p = made(3, 3, (x, y) => x + 3 * y);
  const turned = placed(p, rule({ turnDegrees: 90 }), p);
  expect([...turned.planes[0]].map((v) => Math.round(v))).toEqual([6, 3, 0, 7, 4, 1, 8, 5, 2]);
  const moved = placed(
    made(4, 4, (x) => x),
    rule({ x: 0.5 }),
    { width: 4, height: 4 },
  );
  expect([...moved.planes[0].slice(0, 4)]).toEqual([0, 0, 0, 1]);
  expect([...moved.planes[3].slice(0, 4)]).toEqual([0, 0, 1, 1]);
});
