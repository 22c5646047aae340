import fc from 'fast-check';
import { allocate, type CellNeed } from './allocate';

const cell = fc.record({
  pixels: fc.integer({ min: 1, max: 256 }),
  samples: fc.integer({ min: 4, max: 64 }),
  squares: fc.double({ min: 1e-6, max: 1, noNaN: true }),
  cost: fc.double({ min: 1, max: 100, noNaN: true }),
});
const squaresWith = (cells: CellNeed[], n: ArrayLike<number>) => {
  const pixels = cells.reduce((s, c) => s + c.pixels, 0);
  return cells.reduce((s, c, i) => s + (c.squares * c.samples * c.pixels) / n[i], 0) / pixels;
};
const costOf = (cells: CellNeed[], n: ArrayLike<number>) => cells.reduce((s, c, i) => s + c.pixels * c.cost * n[i], 0);

test('reaches the target where it can, and gives no cell less than it has or more than the most', () => {
  fc.assert(
    fc.property(
      fc.array(cell, { minLength: 1, maxLength: 20 }),
      fc.double({ min: 1e-6, max: 0.1, noNaN: true }),
      (cells, target) => {
        const n = allocate(cells, target, 4096);
        cells.forEach((c, i) => {
          expect(n[i]).toBeGreaterThanOrEqual(c.samples);
          expect(n[i]).toBeLessThanOrEqual(4096 + 1e-6);
        });
        const reached = squaresWith(cells, n) <= target * (1 + 1e-6);
        expect(reached || n.every((v) => v >= 4096 - 1e-6)).toBe(true);
      },
    ),
  );
});

test('no way of shifting samples from one cell to another reaches the target for less', () => {
  const cells = [
    { pixels: 256, samples: 8, squares: 0.02, cost: 4 },
    { pixels: 256, samples: 8, squares: 0.001, cost: 20 },
    { pixels: 128, samples: 8, squares: 0.1, cost: 9 },
  ];
  const n = allocate(cells, 1e-4, 1e6);
  const cost = costOf(cells, n);
  for (let i = 0; i < 3; i++) {
    for (let j = 0; j < 3; j++) {
      if (i === j) continue;
      for (const k of [0.8, 0.95, 1.05, 1.3]) {
        const other = Array.from(n);
        other[i] *= k;
        // What the other cell then needs, so that the target is still met.
        const rest =
          squaresWith(cells, n) -
          (squaresWith(cells, other) - (cells[j].squares * cells[j].samples * cells[j].pixels) / other[j] / 640);
        other[j] = (cells[j].squares * cells[j].samples * cells[j].pixels) / 640 / rest;
        if (rest > 0) expect(costOf(cells, other)).toBeGreaterThan(cost * (1 - 1e-6));
      }
    }
  }
  // N ∝ √(V/c).
  const ideal = cells.map((c) => Math.sqrt((c.squares * c.samples) / c.cost));
  expect(n[0] / n[2]).toBeCloseTo(ideal[0] / ideal[2], 4);
});

test('what has shown no noise yet is not left out', () => {
  const n = allocate(
    [
      { pixels: 256, samples: 4, squares: 0.01, cost: 1 },
      { pixels: 256, samples: 4, squares: 0, cost: 1 },
    ],
    1e-4,
    4096,
  );
  expect(n[1]).toBeGreaterThan(19);
});
