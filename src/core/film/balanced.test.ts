import { renderTest, testRecipe, testScene } from '@/render/testing';
import { kelvinToRgb, luminance } from '../image';
import { groupColors } from '../kernel';
import { mixFactors } from '../moods';
import { box } from '../scene';
import { balancedFilm, groupsHeld } from './balanced';
import { LAYER } from './catalogue';
import { type FilmLayers, tally } from './index';

const GROUPS = ['lamp', 'sky'];
const scene = (lamp: object) =>
  testScene({
    meshes: { block: box(2, 2, 2) },
    environment: [0.2, 0.2, 0.3],
    lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', position: [3, 3, 3], radius: 0.3, power: 200, ...lamp }],
  });
const pairs = [{ group: 'lamp', class: 'direct_diffuse' }];
const recipe = testRecipe(24, 16, { film: { pairs } });
const mean = (film: FilmLayers, name: string, c: number) => {
  const plane = film.layers.get(name)!.planes[c];
  return plane.reduce((s, v) => s + v, 0) / plane.length;
};

test('a lamp of 3000 K brought to 6500 K by its group is the lamp rendered at 6500 K', async () => {
  const [warm, cold] = [scene({ kelvin: 3000 }), scene({ kelvin: 6500 })];
  const film = (await renderTest(warm, recipe)).layers;
  const { film: rendered, layers } = await renderTest(cold, recipe);
  const own = groupColors(warm);
  expect(own.lamp.map((c) => c.toFixed(9))).toEqual(kelvinToRgb(3000).map((c) => c.toFixed(9)));
  const mix = { lamp: { stops: 0, on: true, color: { kind: 'kelvin' as const, kelvin: 6500 } } };
  const made = balancedFilm(film, GROUPS, mixFactors(GROUPS, mix, own))!.film;
  // Paths go where they went before: a lamp's colour moves none of them, and the rest is rounding.
  for (let c = 0; c < 3; c++) {
    const [a, b] = [made.layers.get('beauty')!.planes[c], layers.layers.get('beauty')!.planes[c]];
    a.forEach((v, i) => {
      expect(Math.abs(v - b[i])).toBeLessThan(2e-3 * Math.max(1, b[i]));
    });
  }
  expect(rendered.spec.groups).toEqual(groupsHeld(made));
  const y = (f: FilmLayers) => luminance(mean(f, 'beauty', 0), mean(f, 'beauty', 1), mean(f, 'beauty', 2));
  expect(y(made) / y(film)).toBeGreaterThan(0.9);
});

test('it still adds up, halves too; what is not told by group is left out, and data stays', async () => {
  const film = (await renderTest(scene({}), recipe)).layers;
  const { film: made, leftOut } = balancedFilm(film, GROUPS, { lamp: [4, 2, 1], sky: [0, 0, 0] })!;
  expect(tally(made, 'group')!.maxError).toBeLessThan(1e-5);
  for (const name of ['group.lamp', 'half_a.lamp', LAYER.pair('lamp', 'direct_diffuse')])
    [4, 2, 1].forEach((k, c) => {
      expect(mean(made, name, c)).toBeCloseTo(mean(film, name, c) * k, 4);
    });
  expect(mean(made, 'beauty', 0)).toBeCloseTo(mean(film, 'group.lamp', 0) * 4, 4);
  expect(mean(made, 'half_b', 0)).toBeCloseTo(mean(film, 'half_b.lamp', 0) * 4, 4);
  expect(leftOut).toContain('class.direct_diffuse');
  expect(leftOut.every((n) => n.startsWith('class.'))).toBe(true);
  expect(made.layers.get('alpha')).toEqual(film.layers.get('alpha'));
});

test('a path class follows where it is told with every group', async () => {
  const all = GROUPS.map((group) => ({ group, class: 'direct_diffuse' }));
  const film = (await renderTest(scene({}), testRecipe(16, 4, { film: { pairs: all } }))).layers;
  const { film: made, leftOut } = balancedFilm(film, GROUPS, { lamp: [2, 2, 2] })!;
  const parts = GROUPS.map((g) => mean(film, LAYER.pair(g, 'direct_diffuse'), 1));
  expect(mean(made, 'class.direct_diffuse', 1)).toBeCloseTo(2 * parts[0] + parts[1], 5);
  expect(leftOut).not.toContain('class.direct_diffuse');
});

test('a film without its groups is none that can be balanced', () => {
  expect(balancedFilm({ width: 1, height: 1, layers: new Map() }, ['lamp'], {})).toBeNull();
  expect(balancedFilm({ width: 1, height: 1, layers: new Map() }, [], {})).toBeNull();
});
