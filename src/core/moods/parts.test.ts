import { renderTest, testRecipe, testScene } from '@/render/testing';
import { type FilmLayers, LAYER, relight } from '../film';
import { groupColors } from '../kernel';
import { box, closed, lightGroups, opened, type Scene, withGroups, withParts } from '../scene';
import { AS_RENDERED, type Mix, mixFactors, writtenBack } from '.';

const mix = (change: Record<string, object>): Mix =>
  Object.fromEntries(Object.entries(change).map(([g, c]) => [g, { ...AS_RENDERED, ...c }]));

/** Two lamps before a mirror, in thin fog; both are seen. */
const scene = (): Scene =>
  testScene({
    meshes: { glass: box(2, 2, 0.2), wall: box(8, 6, 0.1) },
    materials: { glass: { base_metalness: 1, base_color: [0.9, 0.9, 0.9], specular_roughness: 0 } },
    camera: { position: [0, 0.4, 6], target: [0, 0.4, 0] },
    environment: {
      kind: 'gradient',
      group: 'sky',
      zenith: [0.05, 0.06, 0.1],
      horizon: [0.1, 0.1, 0.1],
      ground: [0, 0, 0],
    },
    lights: [
      {
        kind: 'sphere',
        name: 'left',
        group: 'lamps',
        position: [-1.3, 0.6, 1.5],
        radius: 0.55,
        power: 40,
        kelvin: 3000,
      },
      {
        kind: 'sphere',
        name: 'right',
        group: 'lamps',
        position: [1.3, 0.6, 1.5],
        radius: 0.55,
        power: 20,
        kelvin: 5000,
      },
    ],
    fog: { density: 0.02 },
  });
const recipe = testRecipe(24, 32);
const changed = (s: Scene, document: Scene['document']): Scene => ({ ...s, document });
const rendered = async (s: Scene) => (await renderTest(s, recipe)).layers;
const plane = (film: FilmLayers, name: string, c = 1) => film.layers.get(name)!.planes[c];
/** The largest difference of two planes, in parts of the largest value. */
const apartBy = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0) / b.reduce((m, v) => Math.max(m, v), 0);

test('lights of a group that are recorded apart sum to it bit for bit, and to what it was in one', async () => {
  const one = scene();
  const lamps = changed(one, withGroups(one.document, opened(one.document, 'lamps')));
  const groups = lightGroups(lamps.document);
  expect(groups).toEqual(['lamps.left', 'lamps.right', 'sky']);
  const film = await rendered(lamps);
  const together = relight(film, groups, mixFactors(groups, {}, {}, ['lamps']))!;
  const [left, right] = ['lamps.left', 'lamps.right'].map((g) => plane(film, LAYER.group(g)));
  expect(together[1]).toEqual(left.map((v, i) => v + right[i]));
  expect(apartBy(together[1], plane(await rendered(one), LAYER.group('lamps')))).toBeLessThan(1e-5);
  // What stands for the group holds for both, and adds to what each has.
  const own = groupColors(lamps);
  const both = mixFactors(groups, mix({ lamps: { stops: 1 }, 'lamps.left': { stops: -2 } }), own);
  expect(both).toEqual({ 'lamps.left': [0.5, 0.5, 0.5], 'lamps.right': [2, 2, 2], sky: [1, 1, 1] });
  expect(lightGroups(withGroups(lamps.document, closed(lamps.document, 'lamps')))).toEqual(['lamps', 'sky']);
});

test('a lamp itself stays as it was while its light on the room is lifted by three stops; written to the lights it renders so', async () => {
  const own = changed(scene(), withParts(scene().document, 'lamps', true));
  const groups = lightGroups(own.document);
  expect(groups).toEqual(['lamps.seen', 'lamps.mirrors', 'lamps.surfaces', 'lamps.fog', 'sky']);
  const film = await rendered(own);
  const parts = groups.slice(0, 4).map((g) => plane(film, LAYER.group(g)));
  for (const p of parts) expect(Math.max(...p)).toBeGreaterThan(0);
  const sum = parts[0].map((v, i) => v + parts[1][i] + parts[2][i] + parts[3][i]);
  expect(apartBy(sum, plane(await rendered(scene()), LAYER.group('lamps')))).toBeLessThan(1e-5);

  const lifted = mix({ 'lamps.surfaces': { stops: 3 } });
  const shown = relight(film, groups, mixFactors(groups, lifted, groupColors(own)))![1];
  const before = relight(film, groups, {})![1];
  const within = [...parts[0].keys()].filter((i) => parts[0][i] > 0.9 * Math.max(...parts[0]));
  expect(within.length).toBeGreaterThan(8);
  for (const i of within) expect(shown[i] / before[i]).toBeCloseTo(1, 2);
  expect(
    apartBy(
      shown.map((v, i) => v - before[i]),
      parts[2].map((v) => 7 * v),
    ),
  ).toBeLessThan(1e-4);
  const back = writtenBack(own.document, lifted, groupColors(own));
  expect([back.written, back.left, back.mix]).toEqual([['lamps'], [], {}]);
  const again = await rendered(changed(own, back.document));
  const [a, b] = ['half_a', 'half_b'].map((h) => plane(again, h));
  const error = Math.sqrt(a.reduce((sum, v, i) => sum + (v - b[i]) ** 2 / 4, 0)) / a.length;
  const mean = (p: Float32Array) => p.reduce((sum, v) => sum + v, 0) / p.length;
  expect(Math.abs(mean(shown) - mean(plane(again, 'beauty')))).toBeLessThan(4 * error);
});

test('parts that have colours of their own stay in the mix, with all that stands for them', () => {
  const { document } = changed(scene(), withParts(scene().document, 'lamps', true));
  const colored = mix({
    lamps: { stops: 1 },
    'lamps.seen': { color: { kind: 'tint', rgb: [1, 0.5, 0.5] } },
    sky: { stops: 1 },
    beam: { on: false },
  });
  const { written, left, mix: rest } = writtenBack(document, colored, {});
  expect(written).toEqual(['sky']);
  expect(left).toEqual([{ group: 'lamps', why: expect.stringContaining('colours of their own') }]);
  expect(Object.keys(rest)).toEqual(['lamps.seen', 'lamps.mirrors', 'lamps.surfaces', 'lamps.fog', 'beam']);
  const groups = lightGroups(document).slice(0, 4);
  expect(mixFactors(groups, rest, {})).toEqual(mixFactors(groups, colored, {}));
  // A part that is off is a role without gain.
  const off = writtenBack(document, mix({ 'lamps.fog': { on: false } }), {}).document.lights[0];
  expect([off.on, off.gains.fog, off.gains.seen]).toEqual([true, 0, 1]);
});
