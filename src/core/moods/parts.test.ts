import { renderTest, testRecipe, testScene } from '@/render/testing';
import { type FilmLayers, LAYER, relight } from '../film';
import { groupColors } from '../kernel';
import { box, closed, lightGroups, opened, type Scene, sphere, transformed, withGroups, withParts } from '../scene';
import { AS_RENDERED, type Mix, mixFactors, writtenBack } from '.';

const mix = (change: Record<string, object>): Mix =>
  Object.fromEntries(Object.entries(change).map(([g, c]) => [g, { ...AS_RENDERED, ...c }]));

/** Two lamps before a mirror, in thin fog; both are seen. */
const scene = (): Scene =>
  testScene({
    meshes: { mirror: box(2, 2, 0.2), wall: box(8, 6, 0.1) },
    materials: { mirror: { base_metalness: 1, base_color: [0.9, 0.9, 0.9], specular_roughness: 0 } },
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

test('a lamp itself and in mirrors stays as it was while its light on the room is lifted by three stops', async () => {
  const own = changed(scene(), withParts(scene().document, 'lamps', true));
  const groups = lightGroups(own.document);
  expect(groups).toEqual(['lamps.seen', 'lamps.mirrors', 'lamps.surfaces', 'lamps.fog', 'sky']);
  const film = await rendered(own);
  const [seen, mirrored, surfaces, fog] = groups.slice(0, 4).map((g) => plane(film, LAYER.group(g)));
  for (const p of [seen, mirrored, surfaces, fog]) expect(Math.max(...p)).toBeGreaterThan(0);
  const sum = seen.map((v, i) => v + mirrored[i] + surfaces[i] + fog[i]);
  expect(apartBy(sum, plane(await rendered(scene()), LAYER.group('lamps')))).toBeLessThan(1e-5);
  const lifted = mix({ 'lamps.surfaces': { stops: 3 } });
  const shown = relight(film, groups, mixFactors(groups, lifted, groupColors(own)))![1];
  const before = relight(film, groups, {})![1];
  for (const part of [seen, mirrored]) {
    const within = [...part.keys()].filter((i) => part[i] > 0.9 * Math.max(...part));
    expect(within.length).toBeGreaterThan(0);
    for (const i of within) expect(shown[i] / before[i]).toBeCloseTo(1, 1);
  }
  expect(
    apartBy(
      shown.map((v, i) => v - before[i]),
      surfaces.map((v) => 7 * v),
    ),
  ).toBeLessThan(1e-4);
});

test('a lamp in clear glass is seen in glass, and what its light falls on is not', async () => {
  const s = testScene({
    meshes: { globe: sphere(0.9, 24), wall: transformed(box(8, 6, 0.1), [0, 0, -2]) },
    materials: { globe: { transmission_weight: 1, specular_ior: 1.2, specular_roughness: 0 } },
    lights: [{ kind: 'sphere', name: 'bulb', group: 'lamps', position: [0, 0, 0], radius: 0.4, power: 20 }],
  });
  const own = changed(s, withParts(s.document, 'lamps', true));
  const film = await rendered(own);
  const middle = 12 * 24 + 12;
  const [seen, glass, surfaces] = lightGroups(own.document).map((g) => plane(film, LAYER.group(g)));
  expect(Math.max(...seen)).toBe(0);
  expect(glass[middle]).toBeGreaterThan(20 * surfaces[middle]);
  expect(Math.max(...surfaces)).toBeGreaterThan(0);
  expect(glass[0]).toBe(0);
});

test('what is seen of a lamp has a gain of its own when written to the lights, and renders so', async () => {
  const own = changed(scene(), withParts(scene().document, 'lamps', true));
  const groups = lightGroups(own.document);
  const lifted = mix({ lamps: { stops: 2 }, 'lamps.seen': { stops: -2 } });
  const shown = relight(await rendered(own), groups, mixFactors(groups, lifted, groupColors(own)))![1];
  const back = writtenBack(own.document, lifted, groupColors(own));
  expect([back.written, back.left, back.mix]).toEqual([['lamps'], [], {}]);
  expect(back.document.lights.map((l) => [l.stops, l.gains.seen])).toEqual([
    [2, 0.25],
    [2, 0.25],
  ]);
  const again = await rendered(changed(own, back.document));
  const [a, b] = ['half_a', 'half_b'].map((h) => plane(again, h));
  const error = Math.sqrt(a.reduce((sum, v, i) => sum + (v - b[i]) ** 2 / 4, 0)) / a.length;
  const mean = (p: Float32Array) => p.reduce((sum, v) => sum + v, 0) / p.length;
  expect(Math.abs(mean(shown) - mean(plane(again, 'beauty')))).toBeLessThan(4 * error);
});

test('parts whose gains or colours lights cannot have stay in the mix, with all that stands for them', () => {
  const { document } = changed(scene(), withParts(scene().document, 'lamps', true));
  const colored = mix({
    lamps: { stops: 1 },
    'lamps.seen': { color: { kind: 'tint', rgb: [1, 0.5, 0.5] } },
    sky: { stops: 1 },
    beam: { on: false },
  });
  const { written, left, mix: rest } = writtenBack(document, colored, {});
  expect(written).toEqual(['sky']);
  expect(left).toEqual([{ group: 'lamps', why: expect.stringContaining('a colour of its own') }]);
  expect(Object.keys(rest)).toEqual(['lamps.seen', 'lamps.mirrors', 'lamps.surfaces', 'lamps.fog', 'beam']);
  const groups = lightGroups(document).slice(0, 4);
  expect(mixFactors(groups, rest, {})).toEqual(mixFactors(groups, colored, {}));
  const foggy = writtenBack(document, mix({ 'lamps.fog': { stops: 1 } }), {});
  expect(foggy.left).toEqual([{ group: 'lamps', why: expect.stringContaining('no gains of their own') }]);
  const off = writtenBack(document, mix({ 'lamps.seen': { on: false } }), {}).document.lights[0];
  expect([off.on, off.gains.seen, off.gains.fog]).toEqual([true, 0, 1]);
});
