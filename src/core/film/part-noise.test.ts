import { renderTest, testRecipe, testScene } from '@/render/testing';
import { box } from '../scene';
import { noiseOf, type Rgb } from '../stats';
import type { FilmLayers, Layer } from './layers';
import { joinedNoise, partNoise, RelitHalves } from './part-noise';
import { relight } from './relight';

const GROUPS = ['lamp', 'key', 'sky'];
let film: FilmLayers;
beforeAll(async () => {
  const light = (group: string, position: number[], power: number) => ({
    kind: 'sphere',
    name: group,
    group,
    position,
    radius: 0.2,
    power,
  });
  const scene = testScene({
    meshes: { block: box(2, 2, 2) },
    environment: [0.2, 0.2, 0.3],
    lights: [light('lamp', [3, 3, 3], 300), light('key', [-3, 2, 4], 100)],
  });
  ({ layers: film } = await renderTest(scene, testRecipe(24, 8)));
});

test('all groups joined are the picture, one joined is itself, none has no noise', () => {
  const { noise, byGroup } = partNoise(film, GROUPS, {}, 1);
  expect(joinedNoise(film, GROUPS, GROUPS, 1)!.rms).toBeCloseTo(noise!.rms, 5);
  for (const g of GROUPS) expect(joinedNoise(film, GROUPS, [g], 1)).toEqual(byGroup[g]);
  expect(joinedNoise(film, GROUPS, [], 1)!.rms).toBeLessThan(1e-4);
  expect(noise!.rms).toBeGreaterThan(0.05);
});

test('a mood lifts the noise of the group that it lifts, and what it puts out has none', () => {
  const plain = partNoise(film, GROUPS, {}, 0.2).byGroup;
  const mood = partNoise(film, GROUPS, { lamp: [2, 2, 2], key: [0, 0, 0] }, 0.2).byGroup;
  // At the foot of the display's curve twice the light shows less than twice the noise.
  expect(mood.lamp!.rms / plain.lamp!.rms).toBeGreaterThan(1.2);
  expect(mood.lamp!.rms / plain.lamp!.rms).toBeLessThan(2.05);
  expect(mood.key!.rms).toBeLessThan(1e-4);
});

test('without halves nothing is measured', () => {
  const layers = new Map([...film.layers].filter(([name]) => !name.startsWith('half_b')));
  expect(partNoise({ ...film, layers }, GROUPS, {}, 1)).toEqual({
    noise: null,
    byGroup: { lamp: null, key: null, sky: null },
  });
});

test('by luminances alone it is the noise of the relit picture, with a group lifted too', () => {
  const factors = { lamp: [2, 1, 0.5], key: [0.3, 0.3, 0.3] } as const;
  const halves = RelitHalves.of(film, GROUPS, factors, 0.3)!;
  const noise = (k: typeof factors | { lamp: readonly [number, number, number] }) => {
    const [a, b] = (['a', 'b'] as const).map((h) => relight(film, GROUPS, k, h)!);
    return noiseOf(a as Rgb, b as Rgb, film.width, film.height, 0.3).rms;
  };
  expect(halves.noise().rms).toBeCloseTo(noise(factors), 4);
  expect(halves.lifted('lamp', 1).rms).toBeCloseTo(noise({ ...factors, lamp: [4, 2, 1] }), 4);
  expect(halves.lifted('sky', 0).rms).toBeCloseTo(halves.noise().rms, 9);
});

test('light is parted by group, and what is beyond white is laid to the group that gives most of it', () => {
  const even = (v: number) => [0, 1, 2].map(() => Float32Array.of(v, v, 0, 0));
  const layer = (name: string, planes: Float32Array[]): [string, Layer] => [
    name,
    { name, channels: ['R', 'G', 'B'], planes, kind: 'color' },
  ];
  const parts = { lamp: even(3), sky: [0, 1, 2].map(() => Float32Array.of(0.5, 4, 1.5, 0)) };
  const layers = new Map(Object.entries(parts).flatMap(([g, p]) => [layer(`half_a.${g}`, p), layer(`half_b.${g}`, p)]));
  const small = { width: 4, height: 1, layers };
  const halves = RelitHalves.of(small, ['lamp', 'sky'], {}, 1)!;
  expect(halves.shares()).toEqual({ lamp: 0.5, sky: 0.5 });
  expect(halves.beyondWhite()).toEqual({ share: 0.75, byGroup: { lamp: 0.25, sky: 0.5 } });
  const darker = RelitHalves.of(small, ['lamp', 'sky'], { lamp: [0, 0, 0], sky: [0.5, 0.5, 0.5] }, 1)!;
  expect(darker.beyondWhite()).toEqual({ share: 0.25, byGroup: { lamp: 0, sky: 0.25 } });
});
