import { Film, makeSpec } from '@/core/film';
import { testRecipe, testScene } from '../../testing';
import { cropOf, noisiest } from './crop';

const film = new Film(makeSpec(testRecipe(40, 2), testScene({}).document));
// 40 pixels are two whole cells and half of one, across and down.
const [WHOLE, RIGHT, BOTTOM] = [
  [0, 1, 3, 4],
  [2, 5],
  [6, 7, 8],
];

test('the noisiest cells are shown, whole ones before those at the edge', () => {
  const cells = [...WHOLE, ...RIGHT, ...BOTTOM];
  const squares = cells.map((cell) => cell);
  expect(noisiest(film, cells, squares)).toEqual([4, 3]);
  expect(noisiest(film, [4, ...RIGHT, ...BOTTOM], [1, 5, 6, 7, 8, 9])).toEqual([4, 8]);
  expect(noisiest(film, BOTTOM, [3, 1, 2])).toEqual([6, 8]);
  expect(noisiest(film, [0], [0])).toEqual([0]);
});

test('a crop is its cells side by side, as displayed', () => {
  const even = new Film(film.spec);
  even.samples.fill(2);
  // Cell 3 is white at this exposure, all others are black.
  for (let plane = 0; plane < 6; plane++) even.floats(3).fill(100, plane * 256, (plane + 1) * 256);
  const { width, height, pixels } = cropOf(even, [0, 3], 1);
  expect([width, height]).toEqual([32, 16]);
  const red = (x: number, y: number) => pixels[(y * width + x) * 4];
  expect([red(0, 0), red(15, 15), red(16, 0), red(31, 15)]).toEqual([0, 0, 255, 255]);
});
