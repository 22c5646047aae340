import fc from 'fast-check';
import {
  canonicalJson,
  changeText,
  differences,
  frameOf,
  PRESETS,
  parseRecipe,
  RecipeError,
  settingAt,
  withSamples,
  withSetting,
} from '.';

const fault = (value: unknown) => {
  try {
    parseRecipe(value);
  } catch (error) {
    if (error instanceof RecipeError) return `${error.path}: ${error.fault}`;
    throw error;
  }
  return null;
};

describe('recipes', () => {
  test('an empty one takes every default', () => {
    const r = parseRecipe({});
    expect(r.sampling.cameraMax).toBe(64);
    expect(r.rayDepth.transmission).toBe(16);
    expect(parseRecipe(r)).toEqual(r);
  });

  test.each([
    [{ sampling: { cameraMax: 0 } }, /sampling.cameraMax: too small, at least 1/],
    [{ sampling: { cameraMax: 1e9 } }, /sampling.cameraMax: too large, at most 65536/],
    [{ sampling: { cameraMax: 1.5 } }, /whole number/],
    [{ sampling: { filter: { kind: 'round' } } }, /sampling.filter.kind: must be one of box, tent, gauss/],
    [{ sampling: { noise: 3 } }, /sampling.noise: unknown setting/],
    [{ polish: {} }, /polish: unknown setting/],
    [{ region: { x: 0.5, y: 0, w: 0.7, h: 1 } }, /region: the region must lie within the frame/],
    [{ sampling: { cameraMin: 32, cameraMax: 16 } }, /cameraMax: must be at least sampling.cameraMin \(32\)/],
    [{ rayDepth: { caustics: 'yes' } }, /rayDepth.caustics: must be of type boolean/],
  ])('%j is refused in words', (value, message) => {
    expect(fault(value)).toMatch(message);
  });

  test('settings are set by dotted names, without touching the original', () => {
    const a = PRESETS.Check;
    const b = parseRecipe(withSetting(a, 'sampling.splits.diffuse', 4));
    expect(settingAt(b, 'sampling.splits.diffuse')).toBe(4);
    expect(a.sampling.splits.diffuse).toBe(1);
    expect(differences(a, b).map(changeText)).toEqual(['diffuse splits 1 → 4']);
    expect(() => withSetting(a, '__proto__.x', 1)).toThrow();
    expect(() => withSetting(a, 'sampling.seed.x', 1)).toThrow(/no settings below/);
  });

  test('canonical JSON does not depend on the order of keys', () => {
    expect(canonicalJson({ b: [1, { d: 2, c: null }], a: 'x' })).toBe('{"a":"x","b":[1,{"c":null,"d":2}]}');
  });

  test('a region lies within the frame at every scale', () => {
    const unit = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(unit, unit, unit, unit, fc.integer({ min: 1, max: 100 }), (x, y, w, h, scale) => {
        const region = {
          x: x * 0.99,
          y: y * 0.99,
          w: Math.max(1e-3, w * (1 - x * 0.99)),
          h: Math.max(1e-3, h * (1 - y * 0.99)),
        };
        const f = frameOf(
          parseRecipe({
            size: { width: 640, height: 360, scale },
            region: { ...region, w: Math.min(region.w, 1 - region.x), h: Math.min(region.h, 1 - region.y) },
          }),
        );
        expect(f.region.width).toBeGreaterThanOrEqual(1);
        expect(f.region.x + f.region.width).toBeLessThanOrEqual(f.width);
        expect(f.region.y + f.region.height).toBeLessThanOrEqual(f.height);
      }),
      { seed: 5 },
    );
  });
});

test('other numbers of samples stop at the noise that they lead to, within what a recipe takes', () => {
  const recipe = parseRecipe({ sampling: { cameraMin: 8, cameraMax: 64, stopNoise: 2 } });
  expect(withSamples(recipe, 4).sampling).toMatchObject({ cameraMin: 32, cameraMax: 256, stopNoise: 1 });
  expect(withSamples(recipe, 1)).toEqual(recipe);
  expect(withSamples(parseRecipe({ sampling: { cameraMin: 1, cameraMax: 40000 } }), 2).sampling.cameraMax).toBe(65536);
  expect(withSamples(parseRecipe({ sampling: { cameraMin: 1, cameraMax: 1 } }), 0.25).sampling.cameraMin).toBe(1);
});
