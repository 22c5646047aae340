import { parseRecipe } from '../recipe';
import { regrouped } from './layers';
import { FIRST_OUTPUTS, parseOutputs } from './schema';
import { STARTS } from './starts';
import { isOfVariant, pictures, unvariedRecipe, variantOf, variedRecipe } from './variant';

const base = parseRecipe({ sampling: { cameraMin: 32, cameraMax: 256 }, rayDepth: { diffuse: 5 } });
const few = { 'sampling.cameraMax': 16, 'scope.sky': false };

test('a variant is the recipe of the shot but for what it differs in, and follows what is edited there', () => {
  const made = variedRecipe(base, few);
  expect(made.scope.sky).toBe(false);
  expect(made.rayDepth).toEqual(base.rayDepth);
  const deeper = parseRecipe({ ...base, rayDepth: { ...base.rayDepth, diffuse: 9 }, size: { width: 640 } });
  expect(variedRecipe(deeper, few).rayDepth.diffuse).toBe(9);
  expect(variedRecipe(deeper, few).size.width).toBe(640);
  expect(variedRecipe(base, null)).toBe(base);
});

test('fewer samples than the shot has at least are its least, too', () => {
  expect(variedRecipe(base, few).sampling).toMatchObject({ cameraMin: 16, cameraMax: 16 });
  expect(variedRecipe(base, { 'sampling.cameraMax': 64 }).sampling.cameraMin).toBe(32);
});

test.each([
  [{ 'film.classes': false }, 'film.classes: no variant may differ in it'],
  [{ 'size.width': 100 }, 'size.width: no variant may differ in it'],
  [{ 'scope.unknown': 1 }, 'scope.unknown: unknown setting'],
  [{ 'clay.grey': 7 }, 'clay.grey: too large, at most 0.99 is allowed'],
])('%o is refused by its setting', (variant, fault) => {
  expect(() => variedRecipe(base, variant as never)).toThrow(fault);
  const list = [{ ...FIRST_OUTPUTS.list[0], variant }];
  expect(() => parseOutputs({ list })).toThrow(`list.0.variant: ${fault}`);
});

test('outputs that differ in the same share a picture; the shot’s own comes first', () => {
  const output = (id: string, variant: object | null) => ({ ...FIRST_OUTPUTS.list[0], id, name: id, variant });
  const { list } = parseOutputs({
    list: [
      output('a', few),
      output('b', null),
      output('c', { 'scope.sky': false, 'sampling.cameraMax': 16 }),
      output('d', {}),
    ],
  });
  expect(pictures(list).map((p) => p.outputs.map((o) => o.id))).toEqual([
    ['b', 'd'],
    ['a', 'c'],
  ]);
  expect(isOfVariant(list[3], null)).toBe(true);
  expect(variantOf({ list: [list[0], list[2]] })).toEqual(few);
  expect(variantOf({ list: [list[1], list[3]] })).toBeNull();
});

test('light groups that have become others shine under their new names, each once', () => {
  const lights = [
    { kind: 'group', name: 'lamp' },
    { kind: 'group', name: 'hall' },
    { kind: 'light', name: 'lamp' },
  ];
  const output = { layers: ['group.lamp'], variant: { ...few, 'scope.lights': lights } };
  const became = new Map([
    ['lamp', ['desk', 'hall']],
    ['hall', ['hall']],
  ]);
  expect(regrouped(output, became)).toEqual({
    layers: ['group.desk', 'group.hall'],
    variant: {
      ...few,
      'scope.lights': [
        { kind: 'group', name: 'desk' },
        { kind: 'group', name: 'hall' },
        { kind: 'light', name: 'lamp' },
      ],
    },
  });
  expect(regrouped({ layers: [], variant: null }, became).variant).toBeNull();
});

test('what was taken from a variant is the shot’s again', () => {
  const edited = parseRecipe({ ...variedRecipe(base, few), rayDepth: { ...base.rayDepth, diffuse: 2 } });
  expect(unvariedRecipe(edited, few, base)).toEqual({ ...base, rayDepth: { ...base.rayDepth, diffuse: 2 } });
});

test('everything that outputs can begin as is an output', () => {
  for (const { outputs } of STARTS) {
    const list = outputs.map((o, i) => ({ ...FIRST_OUTPUTS.list[0], ...o, id: `s${i}` }));
    expect(parseOutputs({ list }).list.map((o) => o.variant)).toEqual(outputs.map((o) => o.variant));
  }
});
