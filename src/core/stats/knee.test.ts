import { kneeOf, type LadderPoint } from './knee';

const points = (of: (value: number) => Partial<LadderPoint>, values = [1, 2, 4, 8, 16]) =>
  values.map((value): LadderPoint => ({ value, noise: 2, seconds: value, difference: 0, ...of(value) }));

test('a depth: the least from which on the picture stays the same, and the time that more would take', () => {
  const knee = kneeOf(points((v) => ({ difference: 12 / v ** 2 < 0.3 ? 0.05 : 12 / v ** 2 })));
  expect(knee).toEqual({ value: 8, by: 'look', beyond: 2 });
});

test('a depth whose picture still changes at the last step has no knee', () => {
  expect(kneeOf(points((v) => ({ difference: v === 16 ? 0 : 3 })))).toBeNull();
});

test('splits: the most efficient, known from its formula, wherever the steps stand', () => {
  // Noise² = u + s/k, time = 1 + k·c: best at k = √(s/(u·c)) = 4.
  const [u, s, c] = [0.25, 4, 1];
  const split = (v: number) => ({ noise: Math.sqrt(u + s / v), seconds: 1 + v * c });
  expect(kneeOf(points(split))).toMatchObject({ value: 4, by: 'efficiency' });
  expect(kneeOf(points(split, [16, 4, 8, 1, 2]))).toMatchObject({ value: 4 });
});

test('camera samples alone have none: every doubling is as good as the last', () => {
  expect(kneeOf(points((v) => ({ noise: 4 / Math.sqrt(v) })))).toBeNull();
  expect(kneeOf(points(() => ({}), [1, 2]))).toBeNull();
});
