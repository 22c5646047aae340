import { parseRecipe } from '@/core/recipe';
import { emptyShot, environmentSchema, type SceneDocument, withField, withParts } from '@/core/scene';
import { retint, type Wanted } from './retint';

const shot = emptyShot('test');
const lamp = { kind: 'light' as const, name: shot.lights[0].name };
const recipe = parseRecipe({ film: { groups: true } });
const wanted = (document: SceneDocument, change: Partial<Wanted> = {}): Wanted => ({
  scene: { document, geometry: new Uint8Array(0), pictures: new Map() },
  recipe,
  camera: document.cameras[0],
  frame: 1,
  ...change,
});
const made = wanted(shot);

test('strength, colour and temperature of a light are factors on its group', () => {
  expect(retint(made, wanted(withField(shot, lamp, 'stops', 2)))).toEqual(new Map([['key', [4, 4, 4]]]));
  expect(retint(made, wanted(withField(shot, lamp, 'color', [1, 0.5, 0.25])))!.get('key')).toEqual([1, 0.5, 0.25]);
  const warm = retint(made, wanted(withField(shot, lamp, 'kelvin', 3000)))!.get('key')!;
  expect(warm[0]).toBeGreaterThan(warm[2] * 2);
});

test('what is brought in to be looked at changes no light', () => {
  const file = { hash: '0'.repeat(64), bytes: 4, width: 1, height: 1, channels: 4, format: 'byte' as const };
  const withFile = (use: 'reference' | 'layers' | 'texture') =>
    wanted({ ...shot, contents: [{ ...file, name: use, use }] });
  expect(retint(made, withFile('reference'))).toEqual(new Map());
  expect(retint(made, withFile('layers'))).toEqual(new Map());
  expect(retint(made, withFile('texture'))).toBeNull();
});

test('what is switched off is black at once', () => {
  expect(retint(made, wanted(withField(shot, lamp, 'on', false)))).toEqual(new Map([['key', [0, 0, 0]]]));
});

test('surroundings of every kind, and a sun, are lifted and tinted', () => {
  const env = { kind: 'environment' as const, name: 'environment' };
  const around = (environment: object): SceneDocument => ({
    ...shot,
    environment: environmentSchema.parse(environment),
  });
  const even = { zenith: [1, 1, 1], horizon: [1, 1, 1], ground: [1, 1, 1] };
  for (const d of [around({ kind: 'gradient', group: 'sky', ...even }), around({ kind: 'sky', group: 'sky' })]) {
    const to = withField(withField(d, env, 'stops', 1), env, 'tint', [1, 0.5, 0]);
    expect(retint(wanted(d), wanted(to))).toEqual(new Map([['sky', [2, 1, 0]]]));
  }
  const sunny = around({ kind: 'sky', group: 'sky' });
  const low = withField(sunny, env, 'sun.tint', [1, 0.5, 0.25]);
  expect(retint(wanted(sunny), wanted(low))).toEqual(new Map([['sun', [1, 0.5, 0.25]]]));
});

test('a light is seen brighter or darker itself where its group keeps that apart', () => {
  const apart = withParts(shot, 'key', true);
  const seen = withField(apart, lamp, 'gains.seen', 0.25);
  expect(retint(made, wanted(withField(shot, lamp, 'gains.seen', 0.25)))).toBeNull();
  expect(retint(wanted(apart), wanted(seen))).toEqual(new Map([['key.seen', [0.25, 0.25, 0.25]]]));
  const lifted = retint(wanted(apart), wanted(withField(seen, lamp, 'stops', 2)))!;
  expect([...lifted.keys()]).toEqual(['key.surfaces', 'key.mirrors']);
});

test('exposure and look are no matter of the film at all', () => {
  const camera = { kind: 'camera' as const, name: shot.cameras[0].name };
  expect(retint(made, wanted(withField(shot, camera, 'exposure.stops', 3)))).toEqual(new Map());
  expect(retint(made, wanted(withField(shot, { kind: 'look', name: 'look' }, 'contrast', 1.4)))).toEqual(new Map());
  const stops = parseRecipe({ ...recipe, sampling: { ...recipe.sampling, stopNoise: 2 } });
  const by = { recipe: stops };
  expect(retint(wanted(shot, by), wanted(withField(shot, camera, 'exposure.stops', 3), by))).toBeNull();
});

test.each<[string, (d: SceneDocument) => SceneDocument]>([
  ['a light that moves', (d) => withField(d, lamp, 'position.0', 5)],
  ['a light from nothing', (d) => d],
  ['another surface', (d) => withField(d, { kind: 'material', name: d.materials[0].name }, 'base_color', [0.5, 0, 0])],
  ['a switch', (d) => withField(d, lamp, 'on', true)],
  ['a camera', (d) => withField(d, { kind: 'camera', name: d.cameras[0].name }, 'focalLengthMm', 50)],
])('%s is traced anew', (what, change) => {
  const dark = withField(shot, lamp, 'power', 0);
  const off = withField(shot, lamp, 'on', false);
  const before = what === 'a light from nothing' ? dark : what === 'a switch' ? off : shot;
  const [from, to] = [before, what === 'a light from nothing' ? shot : change(before)];
  expect(retint(wanted(from), wanted(to))).toBeNull();
});

test('lights that share a group and change apart are traced anew', () => {
  const two = { ...shot, lights: [...shot.lights, { ...shot.lights[0], name: 'second' }] };
  expect(retint(wanted(two), wanted(withField(two, lamp, 'stops', 1)))).toBeNull();
  const both = withField(withField(two, lamp, 'stops', 1), { kind: 'light', name: 'second' }, 'stops', 1);
  expect(retint(wanted(two), wanted(both))!.get('key')).toEqual([2, 2, 2]);
});
