import { drawByWorth, mulberry } from '.';

test('draws by worth tell the mean without bias, and what is worth most is drawn most', () => {
  const random = mulberry(4);
  const worth = Array.from({ length: 40 }, () => random() ** 4);
  const values = worth.map((w) => 3 * w + 0.1 * random());
  const mean = values.reduce((a, v) => a + v, 0) / values.length;
  let sum = 0;
  let squares = 0;
  const seeds = 400;
  for (let seed = 0; seed < seeds; seed++) {
    const drawn = drawByWorth(worth, 8, 0.1, seed);
    expect(drawn).toHaveLength(8);
    const told = drawn.reduce((s, { index, weight }) => s + weight * values[index], 0);
    sum += told;
    squares += (told - mean) ** 2;
  }
  const error = Math.sqrt(squares / seeds);
  expect(Math.abs(sum / seeds - mean)).toBeLessThan((3 * error) / Math.sqrt(seeds));
  // Values that go with their worth are told far better than by eight drawn alike.
  const apart = Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / values.length / 8);
  expect(error).toBeLessThan(apart / 3);
  const most = drawByWorth([1, 1, 30, 1], 8, 0.1);
  expect(most.filter((d) => d.index === 2).length).toBeGreaterThan(4);
  expect(drawByWorth([0, 0, 0], 3, 0.1).map((d) => d.index)).toEqual([0, 1, 2]);
});
