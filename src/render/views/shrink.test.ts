import { shrunk } from './shrink';

const picture = (width: number, height: number, of: (x: number, y: number) => number) => ({
  width,
  height,
  pixels: Uint8ClampedArray.from({ length: width * height * 4 }, (_, i) =>
    of((i >> 2) % width, Math.floor((i >> 2) / width)),
  ),
});

test('each pixel is the mean of those it stands for, and the shape stays', () => {
  const small = shrunk(
    picture(8, 4, (x) => (x % 2) * 200),
    4,
  );
  expect([small.width, small.height]).toEqual([4, 2]);
  expect([...small.pixels]).toEqual(new Array(32).fill(100));
  const halves = shrunk(
    picture(10, 10, (x) => (x < 5 ? 20 : 220)),
    2,
  );
  expect([...halves.pixels.filter((_, i) => i % 4 === 0)]).toEqual([20, 220, 20, 220]);
});

test('sides that do not divide lose no pixel, and what is small enough stays as it is', () => {
  const small = shrunk(
    picture(7, 5, () => 90),
    3,
  );
  expect([small.width, small.height, new Set(small.pixels)]).toEqual([3, 2, new Set([90])]);
  const own = picture(3, 3, (x, y) => x + y);
  expect(shrunk(own, 3)).toEqual(own);
});
