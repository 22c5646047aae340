import type { FilmLayers, Layer } from '../film';
import { filmInFrame } from './fitted';

const film = (width: number, height: number, of: (x: number, y: number) => number): FilmLayers => {
  const plane = Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
  const layer = (name: string, channels: string[], kind: Layer['kind']): [string, Layer] => [
    name,
    { name, channels, planes: channels.map(() => plane.slice()), kind },
  ];
  return {
    width,
    height,
    layers: new Map([
      layer('beauty', ['R', 'G', 'B'], 'color'),
      layer('depth', ['Z'], 'data'),
      layer('alpha', ['A'], 'data'),
    ]),
  };
};
const whole = (width: number, height: number) => ({ x: 0, y: 0, w: width, h: height });
const first = (f: FilmLayers, layer: string) => f.layers.get(layer)!.planes[0];

test('a film of another size: light by means, data as it is somewhere there', () => {
  const large = film(64, 32, (x) => x);
  const small = filmInFrame(large, 'f', { width: 16, height: 8 }, whole(16, 8));
  expect(small).toMatchObject({ width: 16, height: 8 });
  // The mean of four columns; data is one of theirs.
  expect(first(small, 'beauty')[5]).toBeCloseTo(21.5, 5);
  expect(first(small, 'alpha')[5]).toBeCloseTo(21.5, 5);
  expect([20, 21, 22, 23]).toContain(first(small, 'depth')[5]);
  expect(filmInFrame(large, 'f', { width: 64, height: 32 }, whole(64, 32))).toBe(large);
  expect(filmInFrame(large, 'f', { width: 16, height: 8 }, whole(16, 8))).toBe(small);
});

test('a part of the frame gets that part of the film; another shape is refused by name', () => {
  const f = film(64, 32, (x, y) => x + 100 * y);
  const part = filmInFrame(f, 'f', { width: 64, height: 32 }, { x: 10, y: 4, w: 8, h: 6 });
  expect(part).toMatchObject({ width: 8, height: 6 });
  expect(first(part, 'beauty')[8 + 3]).toBeCloseTo(13 + 500, 3);
  expect(first(part, 'depth')[8 + 3]).toBe(13 + 500);
  expect(() => filmInFrame(f, 'room', { width: 60, height: 40 }, whole(60, 40))).toThrow(
    /films\.room.*64×32 pixels, of another shape than the frame, 60×40/,
  );
});
