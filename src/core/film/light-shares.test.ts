import type { Layer } from './layers';
import { lightShares } from './light-shares';

const layer = (name: string, rgb: [number, number, number]): [string, Layer] => [
  name,
  { name, channels: ['R', 'G', 'B'], planes: rgb.map((v) => new Float32Array(4).fill(v)), kind: 'color' },
];
const film = (...layers: [string, Layer][]) => ({ width: 2, height: 2, layers: new Map(layers) });

test('a part’s share is its luminance in that of the picture', () => {
  const shares = lightShares(
    film(
      layer('beauty', [1, 1, 1]),
      layer('group.lamp', [0.75, 0.75, 0.75]),
      layer('class.caustic', [0, 0.5, 0]),
      layer('albedo', [1, 1, 1]),
    ),
  );
  expect(shares['group.lamp']).toBeCloseTo(0.75, 6);
  expect(shares['class.caustic']).toBeCloseTo(0.5 * 0.7152, 3);
  expect(Object.keys(shares)).toEqual(['group.lamp', 'class.caustic']);
});

test('of a black picture there are no shares', () => {
  expect(lightShares(film(layer('beauty', [0, 0, 0]), layer('group.lamp', [0, 0, 0])))).toEqual({});
});
