import fc from 'fast-check';
import {
  canonicalJson,
  differences,
  LADDER_SETTINGS,
  PRESETS,
  parseRecipe,
  RecipeError,
  SETTINGS,
  type SettingSection,
  settingAt,
  settingRows,
  withSetting,
} from '.';

/** Properties that hold for every recipe and every change. */
const even = fc.integer({ min: 1, max: 500 });
const depth = fc.integer({ min: 0, max: 64 });
const splits = fc.integer({ min: 1, max: 16 });
const stops = fc.option(fc.double({ min: 0, max: 10, noNaN: true }), { nil: null });
const recipe = fc
  .record({
    size: fc.record({ width: fc.integer({ min: 16, max: 4096 }), height: fc.integer({ min: 16, max: 4096 }) }),
    sampling: fc.record({
      cameraMin: even,
      stopNoise: fc.double({ min: 0, max: 20, noNaN: true }),
      lightSamples: splits,
      seed: fc.integer({ min: 0, max: 2 ** 31 - 1 }),
      splits: fc.record({ diffuse: splits, reflection: splits, transmission: splits }),
      outlierLimit: fc.record({ first: stops, later: stops }),
    }),
    rayDepth: fc.record({ all: depth, diffuse: depth, reflection: depth, transmission: depth, caustics: fc.boolean() }),
    film: fc.record({ groups: fc.boolean(), classes: fc.boolean(), ledger: fc.constantFrom('off', 'all') }),
  })
  .map((r) => parseRecipe({ ...r, sampling: { ...r.sampling, cameraMax: r.sampling.cameraMin * 2 } }));

test('reading what was written gives the same recipe', () => {
  fc.assert(
    fc.property(recipe, (r) => {
      expect(parseRecipe(JSON.parse(canonicalJson(r)))).toEqual(r);
    }),
    { numRuns: 200, seed: 1 },
  );
});

test('making every difference turns one recipe into the other', () => {
  fc.assert(
    fc.property(recipe, recipe, (a, b) => {
      let made: unknown = a;
      for (const d of differences(a, b)) {
        expect(settingAt(a, d.path)).toEqual(d.from);
        made = withSetting(made, d.path, d.to);
      }
      expect(parseRecipe(made)).toEqual({ ...b, name: a.name });
      expect(differences(b, b)).toEqual([]);
    }),
    { numRuns: 200, seed: 2 },
  );
});

test('the hash’s text does not depend on the order in which settings are written', () => {
  const shuffled = (value: unknown, order: number): unknown => {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
    const entries = Object.entries(value).map(([k, v]) => [k, shuffled(v, order)] as const);
    return Object.fromEntries(order % 2 ? entries.reverse() : [...entries.slice(1), ...entries.slice(0, 1)]);
  };
  fc.assert(
    fc.property(recipe, fc.nat(3), (r, order) => {
      expect(canonicalJson(shuffled(r, order))).toBe(canonicalJson(r));
    }),
    { numRuns: 100, seed: 3 },
  );
});

test('whatever is thrown at it, a recipe is read or refused with a place and a fault', () => {
  fc.assert(
    fc.property(fc.anything({ maxDepth: 4 }), (value) => {
      try {
        parseRecipe(value);
      } catch (error) {
        expect(error).toBeInstanceOf(RecipeError);
        expect((error as RecipeError).fault.length).toBeGreaterThan(3);
      }
    }),
    { numRuns: 1000, seed: 4 },
  );
});

test('any value at any setting is taken as it stands, or refused and the recipe is as it was', () => {
  const paths = pathsOf(parseRecipe({}));
  expect(paths.length).toBeGreaterThan(25);
  fc.assert(
    fc.property(recipe, fc.constantFrom(...paths), fc.jsonValue({ maxDepth: 2 }), (r, path, value) => {
      const before = canonicalJson(r);
      try {
        const next = parseRecipe(withSetting(r, path, value));
        expect(canonicalJson(settingAt(next, path))).toBe(canonicalJson(value));
      } catch (error) {
        expect(error).toBeInstanceOf(RecipeError);
      }
      expect(canonicalJson(r)).toBe(before);
    }),
    { numRuns: 500, seed: 5 },
  );
});

/** Dotted names of all settings. */
function pathsOf(value: object, path = ''): string[] {
  return Object.entries(value).flatMap(([k, v]) => {
    const at = path ? `${path}.${k}` : k;
    return typeof v === 'object' && v !== null && !Array.isArray(v) ? pathsOf(v, at) : [at];
  });
}

/** Settings as the schema has them: regions and lists are one setting each. */
const schemaPaths = pathsOf(parseRecipe({})).filter((p) => p !== 'schema' && p !== 'name');

test('every setting of the schema is in the table, and nothing else is', () => {
  expect(Object.keys(SETTINGS).sort()).toEqual(schemaPaths.sort());
});

test('rows have words, a tip, and a control that fits the value', () => {
  const sections: SettingSection[] = ['Sampling', 'Ray depth', 'Outlier limits', 'Picture'];
  const rows = sections.flatMap(settingRows);
  expect(new Set(rows).size).toBe(rows.length);
  expect(rows.length).toBeGreaterThan(20);
  for (const path of rows) {
    const { tip, label, control } = SETTINGS[path];
    expect([path, label.length > 0, tip.length > 10]).toEqual([path, true, true]);
    const value = settingAt(PRESETS.Check, path);
    if (control.kind === 'toggle') expect(typeof value).toBe('boolean');
    else if (control.kind === 'choice') expect(Object.keys(control.options)).toContain(value);
    else expect(control.kind).toBe('number');
  }
  for (const { beside } of Object.values(SETTINGS)) if (beside !== null) expect(rows).toContain(beside);
});

test('what is offered as a choice is what the schema allows', () => {
  for (const [path, { control }] of Object.entries(SETTINGS)) {
    if (control.kind !== 'choice') continue;
    for (const value of Object.keys(control.options))
      expect(settingAt(parseRecipe(withSetting(PRESETS.Check, path, value)), path)).toBe(value);
    expect(() => parseRecipe(withSetting(PRESETS.Check, path, 'neither'))).toThrow(RecipeError);
  }
});

test('what a ladder steps is a number, or one that is off', () => {
  for (const path of LADDER_SETTINGS) {
    const value = settingAt(PRESETS.Check, path);
    expect([path, value === null || typeof value === 'number']).toEqual([path, true]);
  }
});
