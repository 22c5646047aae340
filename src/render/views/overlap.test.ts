import type { FilmLayers, Layer } from '@/core/film';
import { overlap, type Shown, within } from './overlap';

/** A film whose pixel at frame place (x, y) holds 100·y + x in its beauty, with grain that grows to the right and even cost. */
function shownAt(x: number, y: number, w: number, h: number, width = 64, height = 48): Shown {
  const plane = (of: (fx: number, fy: number) => number) =>
    Float32Array.from({ length: w * h }, (_, i) => of(x + (i % w), y + Math.floor(i / w)));
  const layer = (name: string, planes: Float32Array[]): [string, Layer] => [
    name,
    { name, channels: planes.map((_, c) => 'RGB'[c]), planes, kind: 'color' },
  ];
  const grey = (of: (fx: number, fy: number) => number) => [plane(of), plane(of), plane(of)];
  const grain = (sign: number) => (fx: number, fy: number) => 0.2 + sign * 0.001 * fx * (((fx + fy) % 2) * 2 - 1);
  const film: FilmLayers = {
    width: w,
    height: h,
    layers: new Map([
      layer(
        'beauty',
        grey((fx, fy) => 100 * fy + fx),
      ),
      layer('half_a', grey(grain(1))),
      layer('half_b', grey(grain(-1))),
      layer('cost', [plane(() => 2)]),
    ]),
  };
  return { film, place: { width, height, x, y, w, h } };
}

test('a region and a whole frame meet in the region’s pixels', () => {
  const both = overlap(shownAt(0, 0, 64, 48), shownAt(10, 8, 20, 16))!;
  expect(both.a.place).toEqual({ width: 64, height: 48, x: 10, y: 8, w: 20, h: 16 });
  const of = (s: Shown) => Array.from(s.film.layers.get('beauty')!.planes[0]);
  expect(of(both.a)).toEqual(of(both.b));
  expect(of(both.a)[21]).toBe(100 * 9 + 11);
});

test('two regions meet where both are; frames of other sizes and regions apart do not', () => {
  expect(overlap(shownAt(0, 0, 20, 20), shownAt(15, 10, 20, 20))!.a.place).toMatchObject({ x: 15, y: 10, w: 5, h: 10 });
  expect(overlap(shownAt(0, 0, 20, 20), shownAt(30, 0, 20, 20))).toBeNull();
  expect(overlap(shownAt(0, 0, 20, 20), shownAt(0, 0, 20, 20, 128, 96))).toBeNull();
});

test('figures within a box are those of its pixels, and its share of the time is that of its cost', () => {
  const s = shownAt(0, 0, 64, 48);
  const left = within(s, { x: 0, y: 0, w: 0.25, h: 1 }, 1)!;
  const right = within(s, { x: 0.75, y: 0, w: 0.25, h: 1 }, 1)!;
  expect(left.pixels).toBe(16 * 48);
  expect(right.noise!.rms).toBeGreaterThan(3 * left.noise!.rms);
  expect(left.costShare).toBeCloseTo(0.25, 6);
  expect(within(shownAt(0, 0, 16, 16), { x: 0.5, y: 0.5, w: 0.2, h: 0.2 }, 1)).toBeNull();
});
