import { PATH_CLASSES } from '../kernel';
import { FEATURE_NAMES, parseRecipe } from '../recipe';
import { sceneSchema } from '../scene';
import {
  FAMILIES,
  FEATURES,
  isData,
  isExact,
  LAYER,
  LEDGER_LAYERS,
  layerInfo,
  layersKept,
  MEASURED_LAYERS,
} from './catalogue';
import { layerNames } from './layers';
import { makeSpec } from './spec';

const GROUPS = ['lamp', 'night_sky'];
const EVERYTHING = parseRecipe({
  film: {
    ledger: 'all',
    lostLight: true,
    features: [...FEATURE_NAMES],
    pairs: [{ group: 'night_sky', class: 'direct_fog' }],
  },
});
const document = sceneSchema.parse({
  schema: 1,
  name: 'two lights',
  cameras: [{ name: 'cam', position: [0, 0, 5], target: [0, 0, 0] }],
  materials: [{ name: 'wall' }],
  objects: [],
  lights: GROUPS.map((group, i) => ({
    kind: 'sphere',
    name: group,
    group,
    power: 1,
    position: [i, 1, 0],
    radius: 0.1,
  })),
  geometry: { hash: '', bytes: 0, meshes: [] },
});

test('the layers a recipe keeps are those that its film holds', () => {
  const spec = makeSpec(EVERYTHING, document);
  expect(spec.groups).toEqual(GROUPS);
  expect(new Set(layersKept(EVERYTHING.film, GROUPS))).toEqual(new Set(layerNames(spec)));
  const little = parseRecipe({ film: { groups: false, classes: false, features: [] } });
  expect(new Set(layersKept(little.film, GROUPS))).toEqual(new Set(layerNames(makeSpec(little, document))));
});

test('every layer that can be kept is in the table: family, words, planes', () => {
  for (const name of layersKept(EVERYTHING.film, GROUPS)) {
    const info = layerInfo(name);
    expect(FAMILIES[info.family]).toBeDefined();
    expect(info.words).not.toMatch(/[._]/);
    expect(info.planes).toBeGreaterThan(0);
    expect(info.name).toBe(name);
  }
});

test('names of groups, classes, pairs and bounces are read back as they were made', () => {
  expect(layerInfo(LAYER.group('night_sky'))).toMatchObject({
    family: 'group',
    group: 'night_sky',
    words: 'night sky',
  });
  expect(layerInfo(LAYER.class('direct_fog'))).toMatchObject({ family: 'class', group: null, words: 'direct fog' });
  expect(layerInfo(LAYER.pair('night_sky', 'direct_fog'))).toMatchObject({
    family: 'pair',
    group: 'night_sky',
    words: 'night sky · direct fog',
  });
  expect(layerInfo(LAYER.half('a', 'lamp'))).toMatchObject({ family: 'group_half', group: 'lamp' });
  expect(layerInfo(LAYER.half('b'))).toMatchObject({ family: 'half', group: null });
  expect(LEDGER_LAYERS.map((n) => layerInfo(n).words)).toEqual(LEDGER_LAYERS.map((n) => n.slice(-2)));
  expect(PATH_CLASSES.every((c) => layerInfo(LAYER.class(c)).family === 'class')).toBe(true);
});

test('a layer of a file from elsewhere is told by its name, and is no light group of ours', () => {
  for (const name of ['group', 'crypto.thing', 'constructor', 'toString', ''])
    expect(layerInfo(name)).toMatchObject({ family: 'feature', group: null, data: false, exact: false });
});

test('what must keep all its digits, and what is data', () => {
  expect(['depth', 'P', 'uv', 'motion', 'coverage', 'samples', 'cost', 'rays'].every(isExact)).toBe(true);
  expect(['beauty', 'N', 'albedo', 'alpha', LAYER.group('lamp')].some(isExact)).toBe(false);
  expect(['alpha', 'N', 'shadow', ...MEASURED_LAYERS].every(isData)).toBe(true);
  // Albedo is a colour, though it is kept beside the light.
  expect(['beauty', 'albedo', 'lost', LAYER.class('caustic')].some(isData)).toBe(false);
  expect(Object.keys(FEATURES).sort()).toEqual([...FEATURE_NAMES].sort());
});
