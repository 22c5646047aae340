import { renderTest, testRecipe, testScene } from '@/render/testing';
import { box } from '../scene';
import type { FilmLayers } from './layers';
import { joinedNoise, partNoise } from './part-noise';

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
