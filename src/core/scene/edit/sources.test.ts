import fc from 'fast-check';
import { lightGroups, MOST_GROUPS, namedGroups, type SceneDocument, sceneSchema, UNASSIGNED } from '..';
import { groupForEach, groupForEachSet, groupNameOf, lightSources, quietestOver, withGroups } from './sources';

const lamp = (name: string, more: object = {}) => ({
  kind: 'point',
  name,
  group: 'lights',
  power: 5,
  position: [0, 1, 0],
  ...more,
});

/** Lamps, glowing objects and a sky, as a file that was brought in has them. */
function scene(more: object = {}): SceneDocument {
  return sceneSchema.parse({
    schema: 1,
    name: 'gallery',
    cameras: [{ name: 'c', position: [0, 1, 4], target: [0, 1, 0] }],
    materials: [{ name: 'iron' }, { name: 'ember', emission_luminance: 20, light_group: 'lights' }],
    objects: [
      { name: 'floor', mesh: 'quad', material: 'iron' },
      { name: 'coal', mesh: 'lump', material: 'ember' },
    ],
    lights: ['hall', 'stair', 'desk', 'porch', 'cellar'].map((n, i) => lamp(n, { power: i + 1 })),
    environment: { kind: 'gradient', group: 'lights', zenith: [1, 1, 1], horizon: [1, 1, 1], ground: [0, 0, 0] },
    geometry: { hash: '', bytes: 0, meshes: [], pictures: [] },
    ...more,
  });
}

test('five lamps, a glowing mesh and a sky are proposed seven light groups', () => {
  const d = scene();
  const grouped = withGroups(d, groupForEach(d));
  expect(lightGroups(grouped)).toEqual(['hall', 'stair', 'desk', 'porch', 'cellar', 'sky', 'coal']);
  expect(lightSources(grouped).map((s) => [s.kind, s.name, s.group])).toEqual([
    ...['hall', 'stair', 'desk', 'porch', 'cellar'].map((n) => ['light', n, n]),
    ['environment', 'environment', 'sky'],
    ['glow', 'coal', 'coal'],
  ]);
});

test('copies of a lamp and of a glowing thing are one source, wherever they stand; what differs is not', () => {
  const d = scene({
    lights: [
      lamp('sconce 1'),
      lamp('sconce 2', { position: [3, 1, 0] }),
      lamp('sconce 3', { power: 6 }),
      lamp('torch', { position: [3, 1, 0] }),
    ],
    objects: ['coal', 'coal 2', 'brand'].map((name) => ({
      name,
      mesh: name === 'brand' ? 'stick' : 'lump',
      material: 'ember',
    })),
    environment: null,
  });
  expect(lightSources(d).map((s) => s.members)).toEqual([
    ['light sconce 1', 'light sconce 2'],
    ['light sconce 3'],
    ['light torch'],
    ['glow coal', 'glow coal 2'],
    ['glow brand'],
  ]);
  const grouped = withGroups(d, groupForEach(d));
  expect(lightGroups(grouped)).toEqual(['sconce', 'sconce_3', 'torch', 'coal', 'brand']);
  // One material in two groups: its objects have groups of their own. In one again, the material has it alone.
  expect(grouped.objects.map((o) => o.lightGroup)).toEqual(['coal', 'coal', 'brand']);
  const joined = withGroups(grouped, new Map([['glow brand', 'coal']]));
  expect(joined.objects.map((o) => o.lightGroup)).toEqual([undefined, undefined, undefined]);
  expect(joined.materials[1].light_group).toBe('coal');
});

test('sets give groups to the lights in them, to what their members carry, and to what glows; all else stays', () => {
  const d = scene({
    sets: { 'Upper floor': ['stair', 'coal'], door: ['floor'] },
    lights: [lamp('hall'), lamp('stair'), lamp('porch', { parent: 'floor' })],
  });
  const grouped = withGroups(d, groupForEachSet(d));
  expect(lightSources(grouped).map((s) => [s.name, s.group])).toEqual([
    ['hall', 'lights'],
    ['stair', 'upper_floor'],
    ['porch', 'door'],
    ['environment', 'lights'],
    ['coal', 'upper_floor'],
  ]);
});

test('groups keep the document’s order; those without a source go, new ones come behind', () => {
  const d = scene({ groups: ['lights', 'unused', 'other'] });
  expect(withGroups(d, new Map([['light desk', 'desk']])).groups).toEqual(['lights', 'desk']);
});

test('more groups than a film keeps: the last ones together as unassigned light; the quietest are told', () => {
  const names = Array.from({ length: 17 }, (_, i) => `lamp_${String.fromCharCode(97 + i)}`);
  const d = scene({ lights: names.map((n) => lamp(n, { group: n })), environment: null, objects: [] });
  expect(namedGroups(d)).toHaveLength(17);
  expect(lightGroups(d)).toEqual([...names.slice(0, MOST_GROUPS - 1), UNASSIGNED]);
  const share = (g: string) => (g === 'lamp_c' ? 0.001 : g === 'lamp_f' ? 0.002 : 0.1);
  const quiet = quietestOver(namedGroups(d), share);
  expect(quiet).toEqual(['lamp_c', 'lamp_f']);
  const merged = withGroups(d, new Map(quiet.map((g) => [`light ${g}`, UNASSIGNED])));
  expect(namedGroups(merged)).toHaveLength(MOST_GROUPS);
  expect(quietestOver(namedGroups(merged), share)).toEqual([]);
});

test('whatever is moved where: every source is in the group it was put into, and the document is a valid one', () => {
  const group = fc.constantFrom('key', 'fill', 'other', 'practical');
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.nat(8), group), { maxLength: 6 }), (moves) => {
      const d = scene({
        environment: { kind: 'sky', group: 'sky' },
        objects: ['coal', 'coal 2', 'brand'].map((name) => ({ name, mesh: name, material: 'ember' })),
      });
      const members = lightSources(d).flatMap((s) => s.members);
      const wanted = new Map(moves.map(([i, g]) => [members[i % members.length], g]));
      const moved = sceneSchema.parse(withGroups(d, wanted));
      for (const s of lightSources(moved))
        for (const m of s.members) {
          const before = lightSources(d).find((x) => x.members.includes(m))!.group;
          expect([m, s.group]).toEqual([m, wanted.get(m) ?? before]);
        }
    }),
    { numRuns: 60 },
  );
});

test.each([
  ['Hall Lamp', 'hall_lamp'],
  ['Tür-Licht №2', 'tu_r_licht_2'],
  ['…', 'light'],
])('%s names a light group %s', (name, group) => expect(groupNameOf(name)).toBe(group));
