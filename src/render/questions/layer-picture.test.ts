import type { Layer } from '@/core/film';
import type { FilmDesk } from '../page/desk';
import { layerPicture } from './layer-picture';

const SIZE = { width: 64, height: 32 };
const layer = (name: string, value: (i: number) => number): [string, Layer] => [
  name,
  {
    name,
    channels: ['R', 'G', 'B'],
    planes: [0, 1, 2].map(() => Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => value(i))),
    kind: 'color',
  },
];
const all = new Map([
  layer('group.lamp', () => 1),
  layer('half_a.lamp', (i) => 1 + (i % 2 ? 0.1 : -0.1)),
  layer('half_b.lamp', (i) => 1 - (i % 2 ? 0.1 : -0.1)),
  layer('class.caustic', (i) => (i % SIZE.width < 32 ? 0 : 1)),
]);
const asked: string[][] = [];
const desk = {
  sceneExposure: 1,
  cache: {
    film: async (_: unknown, names: string[]) => {
      asked.push(names);
      return { ...SIZE, layers: new Map(names.map((n) => [n, all.get(n)!])) };
    },
  },
} as unknown as FilmDesk;
const of = { id: 'a', film: 'f', denoised: null };
const ask = (name: string, layers: string[]) => layerPicture(desk, { of, name, layers, across: 16 }, null as never);

test('a layer is a small picture, of its own pixels alone', async () => {
  const { picture, noise } = (await ask('class.caustic', [...all.keys()]))!;
  expect([picture.width, picture.height]).toEqual([16, 8]);
  expect(picture.pixels[0]).toBe(0);
  expect(picture.pixels[15 * 4]).toBeGreaterThan(200);
  expect(noise).toBeNull();
  expect(asked.at(-1)).toEqual(['class.caustic']);
});

test('a light group’s noise is its own, from its halves; without them it has none', async () => {
  const { noise } = (await ask('group.lamp', [...all.keys()]))!;
  expect(noise!.rms).toBeGreaterThan(0);
  expect((await ask('group.lamp', ['group.lamp']))!.noise).toBeNull();
});
