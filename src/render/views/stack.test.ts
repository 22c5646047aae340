import { type Picture, stackAt } from '@/core/comp';
import type { FilmLayers, Layer } from '@/core/film';
import { applied, between } from '@/core/image';
import { show } from './show';
import { type StackOver, stackAside, stackPicture, stackResult } from './stack';
import { thinned } from './thinned';

const layer = (name: string, planes: Float32Array[]): [string, Layer] => [
  name,
  { name, channels: ['R', 'G', 'B'], planes, kind: 'color' },
];
const [WIDTH, HEIGHT] = [8, 4];
const evenly = (v: number) => new Float32Array(WIDTH * HEIGHT).fill(v);
const light = (v: number) => [evenly(v), evenly(v), evenly(v)];
const film: FilmLayers = {
  width: WIDTH,
  height: HEIGHT,
  layers: new Map([layer('beauty', light(2)), layer('half_a', light(1)), layer('half_b', light(3))]),
};
/** Red tells how far to the right a pixel of the plate lies, as wide as the frame of which the film is the right half. */
const across = Float32Array.from({ length: 2 * WIDTH * HEIGHT }, (_, i) => i % (2 * WIDTH));
const whole = new Float32Array(across.length).fill(1);
const plate: Picture = { width: 2 * WIDTH, height: HEIGHT, planes: [across, whole, whole, whole] };
const place = { width: 2 * WIDTH, height: HEIGHT, x: WIDTH, y: 0, w: WIDTH, h: HEIGHT };
const beside = { films: new Map(), files: new Map(), pictures: new Map([['sky', plate]]), tables: new Map() };
const beauty = { kind: 'layer', way: 'add', source: { from: 'film', film: 'shown', layer: 'beauty' } };
const over = (entries: object[], more: object = {}): StackOver => ({
  stack: stackAt({ films: { shown: 'A' }, pictures: { sky: { file: 'sky' } }, entries, ...more }, 1),
  layers: ['beauty'],
  objects: [],
  masks: {},
  scale: 0.5,
  others: {},
  files: {},
  primaries: {},
  contents: {},
  tables: {},
  moods: {},
  lookedAt: null,
});
const sky = { kind: 'layer', source: { from: 'picture', picture: 'sky' } };

test('a film lies in its frame, at its exposure, over the part of a plate that is behind it', () => {
  const { planes } = stackPicture(over([sky, beauty]), film, place, beside);
  expect([...planes[0].slice(0, WIDTH)]).toEqual([9, 10, 11, 12, 13, 14, 15, 16]);
  expect(stackResult(film)?.planes[0]).toEqual(planes[0]);
  const half = stackAside(over([sky, beauty]), film, place, beside, 'b');
  expect(half.planes[1][0]).toBe(1 + 3 * 0.5);
});

test('thinned, plates are thinned with it', () => {
  const { planes, width } = stackPicture(over([sky]), thinned(film), place, beside);
  expect(width).toBe(WIDTH / 2);
  [...planes[0].slice(0, width)].forEach((v, i) => {
    expect(v).toBeCloseTo(8.5 + 2 * i, 5);
  });
});

test('for a screen of P3 a page that has its colours shows them, another what sRGB has of them', () => {
  const own = [0.02, 0.6, 0.1];
  const light = applied(between('Display P3', 'Rec.709'), own);
  const seen = (rgb: readonly number[], to: string, more: object = {}) => {
    const stack = over([{ kind: 'layer', source: { from: 'solid', rgb } }], { display: { to } });
    const { pixels, space } = show(film, { kind: 'stack', ...stack, ...more }, 0.5, null, null, { place, beside })!;
    return { rgb: [...pixels.slice(0, 3)], space };
  };
  expect(seen(light, 'Display P3', { wide: true })).toEqual({ rgb: seen(own, 'sRGB').rgb, space: 'display-p3' });
  // More green than sRGB has.
  expect(light[0]).toBeLessThan(0);
  expect(seen(light, 'Display P3')).toEqual(seen(light, 'sRGB'));
  expect(seen(light, 'sRGB', { wide: true }).space).toBeUndefined();
  expect(seen(light, 'Display P3', { wide: true, told: 'clipped' }).space).toBe('display-p3');
});

test('it is shown as displayed; a mask that is looked at leaves the rest dark', () => {
  const masks = { left: { of: [{ kind: 'gradient', from: [0.5, 0], to: [0.499, 0] }] } };
  const stack = over([beauty], { masks });
  const at = { place, beside };
  const plain = show(film, { kind: 'stack', ...stack }, 0.5, null, null, at)!.pixels;
  const display = show(film, { kind: 'color', layer: 'beauty' }, 0.5, null)!.pixels;
  expect([...plain]).toEqual([...display]);
  const masked = show(film, { kind: 'stack', ...stack, lookedAt: 'left' }, 0.5, null, null, at)!.pixels;
  expect(masked[0]).toBe(plain[0]);
  expect(masked[(WIDTH - 1) * 4]).toBeLessThan(0.2 * plain[0]);
});
