import fc from 'fast-check';
import { framesBeside, glanceOf, stepOf } from '.';

const [WIDTH, HEIGHT] = [96, 56];
/** A grey picture by its level at each pixel. */
const grey = (of: (x: number, y: number) => number) => {
  const out = new Uint8Array(WIDTH * HEIGHT * 4);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) out.fill(of(x, y), (y * WIDTH + x) * 4, (y * WIDTH + x) * 4 + 3);
  return glanceOf(out, WIDTH, HEIGHT, 4);
};

test('what brightens evenly steps by nothing, a flash by its height, a flash in a quarter by half of that', () => {
  const [dark, mid, light] = [40, 80, 120].map((v) => grey(() => v));
  expect(stepOf(dark, mid, light, 0.5)).toBeCloseTo(0, 3);
  expect(stepOf(dark, light, dark, 0.5)).toBeCloseTo((80 / 255) * 100, 2);
  const corner = grey((x, y) => (x < WIDTH / 2 && y < HEIGHT / 2 ? 120 : 40));
  expect(stepOf(dark, corner, dark, 0.5)).toBeCloseTo(((80 / 255) * 100) / 2, 2);
  // A frame that is nearer to the one before is expected to look more like it.
  expect(
    stepOf(
      dark,
      mid,
      grey(() => 240),
      0.8,
    ),
  ).toBeCloseTo(0, 3);
});

test('no step depends on how a picture is laid out: any flat picture has one value in all cells', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 200 }), fc.nat(255), (w, h, v) => {
      const glance = glanceOf(new Uint8Array(w * h * 3).fill(v), w, h, 3);
      const cells = new Uint16Array(glance.buffer);
      expect(cells.every((c) => Math.abs(c - v * 257) <= 1)).toBe(true);
    }),
    { numRuns: 60 },
  );
});

test('frames beside one are those of the list, by how near they are', () => {
  const list = [1, 2, 4, 10];
  expect(framesBeside(list, 2)).toEqual({ before: 1, after: 4, share: 2 / 3 });
  expect(framesBeside(list, 4)).toEqual({ before: 2, after: 10, share: 0.75 });
  expect([1, 10, 3].map((f) => framesBeside(list, f))).toEqual([null, null, null]);
});
