import fc from 'fast-check';
import type { FilmLayers, Layer } from '../film';
import { blendLayer, neededToBlend, type Strengths } from './blend';

const KEPT = [
  'beauty',
  'half_a',
  'half_b',
  'group.lamp',
  'half_a.lamp',
  'half_b.lamp',
  'group.sky',
  'half_a.sky',
  'half_b.sky',
  'class.emission',
  'class.caustic',
];
const layer = (name: string, value: number): [string, Layer] => [
  name,
  { name, channels: ['R', 'G', 'B'], planes: [0, 1, 2].map((c) => Float32Array.of(value * (1 + c))), kind: 'color' },
];

/** A pixel of two groups in two halves, and two classes that sum to it. */
function filmOf(lamp: number, sky: number, share: number): FilmLayers {
  const both = lamp + sky;
  const values: Record<string, number> = {
    beauty: both,
    half_a: both * 0.9,
    half_b: both * 1.1,
    'group.lamp': lamp,
    'half_a.lamp': lamp * 0.9,
    'half_b.lamp': lamp * 1.1,
    'group.sky': sky,
    'half_a.sky': sky * 0.9,
    'half_b.sky': sky * 1.1,
    'class.emission': both * share,
    'class.caustic': both * (1 - share),
  };
  return { width: 1, height: 1, layers: new Map(Object.entries(values).map(([n, v]) => layer(n, v))) };
}

const value = fc.double({ min: 0, max: 10, noNaN: true });
const share = fc.double({ min: 0, max: 1, noNaN: true });

test('groups and classes sum to the beauty at any strengths, and halves to their groups', () => {
  fc.assert(
    fc.property(value, value, value, value, share, share, share, share, (a, b, c, d, s, t, all, own) => {
      const [plain, made] = [filmOf(a, b, s), filmOf(c, d, t)];
      const strengths: Strengths = { all, groups: { lamp: own } };
      const red = (n: string) => blendLayer(n, KEPT, plain, made, strengths).planes[0][0];
      const whole = red('beauty');
      const near = (v: number, w: number) => Math.abs(v - w) <= 1e-5 * Math.max(1, w);
      expect(near(red('group.lamp') + red('group.sky'), whole)).toBe(true);
      expect(near(red('class.emission') + red('class.caustic'), whole)).toBe(true);
      expect(near((red('half_a') + red('half_b')) / 2, whole)).toBe(true);
      expect(near(red('group.lamp'), a * (1 - own) + c * own)).toBe(true);
    }),
  );
});

test('strength 0 gives the values of the film itself, 1 those that were denoised', () => {
  const [plain, made] = [filmOf(1, 2, 0.3), filmOf(4, 1, 0.6)];
  for (const name of KEPT) {
    const at = (all: number) => blendLayer(name, KEPT, plain, made, { all, groups: {} }).planes;
    expect(at(0)).toEqual(plain.layers.get(name)!.planes);
    expect(at(1)).toEqual(made.layers.get(name)!.planes);
  }
});

test('a layer is asked for by itself, and with its family only where groups differ', () => {
  const even = { all: 0.5, groups: { lamp: 0.5 } };
  const own = { all: 0.5, groups: { lamp: 0 } };
  expect(neededToBlend('beauty', KEPT, even)).toEqual(['beauty']);
  expect(neededToBlend('beauty', KEPT, own)).toEqual(['group.lamp', 'group.sky']);
  expect(neededToBlend('half_b', KEPT, own)).toEqual(['half_b.lamp', 'half_b.sky']);
  expect(neededToBlend('class.caustic', KEPT, own)).toEqual([
    'class.emission',
    'class.caustic',
    'group.lamp',
    'group.sky',
  ]);
  expect(neededToBlend('group.sky', KEPT, own)).toEqual(['group.sky']);
  expect(neededToBlend('depth', KEPT, own)).toEqual([]);
});
