import type { Factors, Layer } from '@/core/film';
import type { FilmDesk } from '../page/desk';
import { layerNoise } from './layer-noise';
import { layerPicture } from './layer-picture';
import { relit } from './relit';

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
const ask = (name: string) => layerPicture(desk, { of, name, across: 16 }, null as never);

test('a layer is a small picture, of its own pixels alone', async () => {
  const picture = (await ask('class.caustic'))!;
  expect([picture.width, picture.height]).toEqual([16, 8]);
  expect(picture.pixels[0]).toBe(0);
  expect(picture.pixels[15 * 4]).toBeGreaterThan(200);
  expect(asked.at(-1)).toEqual(['class.caustic']);
});

test('a light group brings the noise that Balance tells of it, and in the worst of the moods; what is joined has its own', async () => {
  const lamp = [2, 2, 2] as const;
  const moods = [
    { name: 'out', factors: { lamp: [0, 0, 0] as const } },
    { name: 'storm', factors: { lamp } },
  ];
  const to = { of, groups: ['lamp'], exposure: 0.2 };
  const asking = { signal: new AbortController().signal, onStep: () => {} };
  const noises = await layerNoise(desk, { ...to, moods, unwritten: ['lamp'] }, asking);
  const measured = async (factors: Factors) => (await relit(desk, { ...to, factors }, asking))!.byGroup.lamp!.rms;
  expect(noises['group.lamp']).toEqual({
    rms: await measured({}),
    worst: { mood: 'storm', rms: await measured({ lamp }) },
  });
  expect(noises['rest.group'].rms).toBeCloseTo(noises['group.lamp'].rms, 8);
  const without = await layerNoise(desk, { ...to, moods: [], unwritten: [] }, asking);
  expect(without).toEqual({ 'group.lamp': { rms: noises['group.lamp'].rms, worst: null } });
});
