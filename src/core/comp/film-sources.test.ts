import type { FilmLayers, Layer } from '../film';
import { OCCLUSION_PLANES } from '../kernel';
import { sourcesOf } from '.';

const layer = (name: string, channels: string[], values: number[][]): [string, Layer] => [
  name,
  {
    name,
    channels,
    planes: values.map((v) => Float32Array.from(v)),
    kind: name.startsWith('group') ? 'color' : 'data',
  },
];
/** Three pixels: a thing, half a thing before the sky, and the sky. */
const film: FilmLayers = {
  width: 3,
  height: 1,
  layers: new Map([
    layer('alpha', ['A'], [[1, 0.5, 0]]),
    layer(
      'group.sky',
      ['R', 'G', 'B'],
      [
        [1, 2, 4],
        [1, 2, 4],
        [1, 2, 4],
      ],
    ),
    // Of the rays at surfaces half are blocked at once, a quarter far away, and a quarter is open.
    layer(
      'occlusion_bands',
      Array.from({ length: OCCLUSION_PLANES }, (_, b) => `b${b}`),
      Array.from({ length: OCCLUSION_PLANES }, (_, b) => {
        const share = b === 0 ? 0.5 : b >= OCCLUSION_PLANES - 2 ? 0.25 : 0;
        return [share, share * 0.5, 0];
      }),
    ),
  ]),
};
const of = (source: object) =>
  sourcesOf({ films: new Map([['f', film]]), pictures: new Map(), tables: new Map(), space: 'Rec.709' as const }).light(
    {
      from: 'film',
      film: 'f',
      layer: 'group.sky',
      alpha: 'of the film',
      reachMetres: null,
      mood: null,
      ...source,
    } as never,
  );
const red = (source: object) => [...of(source).planes[0]];
const alpha = (source: object) => [...of(source).planes[3]];

test('a sky that is seen is light without alpha, hides what is below, or is cut out', () => {
  expect([red({}), alpha({})]).toEqual([
    [1, 2, 4],
    [1, 0.5, 0],
  ]);
  expect([red({ alpha: 'whole' }), alpha({ alpha: 'whole' })]).toEqual([
    [1, 2, 4],
    [1, 1, 1],
  ]);
  expect([red({ alpha: 'cut' }), alpha({ alpha: 'cut' })]).toEqual([
    [1, 1, 0],
    [1, 0.5, 0],
  ]);
});

test('openness is of surfaces, up to a reach; where none is nothing closes in', () => {
  const open = { layer: 'occlusion', alpha: 'of the film' };
  expect(red(open)).toEqual([0.25, 0.625, 1]);
  expect(red({ ...open, reachMetres: 0.001 })).toEqual([0.5, 0.75, 1]);
});
