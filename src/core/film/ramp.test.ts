import fc from 'fast-check';
import { endsWithAlpha, isRampable, rampEnds, ramped } from './ramp';

test('a ramp rises from its one end to the other, or falls; beyond them it is flat', () => {
  const plane = Float32Array.of(Number.NEGATIVE_INFINITY, 0, 1, 1.5, 2, 9, Number.POSITIVE_INFINITY, Number.NaN);
  expect([...ramped(plane, { layer: 'depth', from: 1, to: 2 })]).toEqual([0, 0, 0, 0.5, 1, 1, 1, 0]);
  expect([...ramped(plane, { layer: 'depth', from: 2, to: 1 })]).toEqual([1, 1, 1, 0.5, 0, 0, 0, 0]);
  expect([...ramped(plane, { layer: 'depth', from: 1.5, to: 1.5 })]).toEqual([0, 0, 0, 1, 1, 1, 1, 0]);
});

test('a ramp and the same one turned about share the whole between them', () => {
  const number = fc.double({ min: -100, max: 100, noNaN: true });
  fc.assert(
    fc.property(fc.array(number, { minLength: 1 }), number, number, (values, from, to) => {
      fc.pre(from !== to);
      const [up, down] = [
        ramped(values, { layer: 'depth', from, to }),
        ramped(values, { layer: 'depth', from: to, to: from }),
      ];
      values.forEach((_, i) => {
        expect(up[i] + down[i]).toBeCloseTo(1, 5);
      });
    }),
    { seed: 1 },
  );
});

test('data that recipes ask for have ramps, light and identifiers none', () => {
  expect(['depth', 'roughness', 'P', 'N', 'uv', 'motion'].filter(isRampable)).toHaveLength(6);
  expect(['beauty', 'group.lamp', 'coverage', 'samples', 'occlusion_bands', 'mask.boat'].filter(isRampable)).toEqual(
    [],
  );
  expect(rampEnds('roughness')).toEqual({ from: 0, to: 1 });
  expect(rampEnds('N')).toEqual({ from: -1, to: 1 });
});

test('where a surface ends its ramp ends with it: half a pixel of stone has the roughness of stone and half the mask', () => {
  const alpha = Float32Array.of(1, 0.5, 0, 1);
  const roughness = Float32Array.of(0.8, 0.4, 0, 0.2);
  expect([...ramped(roughness, { layer: 'roughness', from: 0, to: 0.8 }, alpha)]).toEqual(
    [1, 0.5, 0, 0.25].map(Math.fround),
  );
  // What is smooth has a falling ramp; the sky, of which there is no roughness, has none.
  expect(ramped(roughness, { layer: 'roughness', from: 0.8, to: 0 }, alpha)[2]).toBe(0);
  // Of the nearest sample nothing is averaged.
  expect([...ramped(Float32Array.of(4, 4), { layer: 'P', from: 0, to: 8 }, Float32Array.of(1, 0.5))]).toEqual([
    0.5, 0.25,
  ]);
  // Catchers of shadow have no alpha of their own.
  expect(['depth', 'distance', 'alpha', 'shadow'].some(endsWithAlpha)).toBe(false);
  expect(['roughness', 'N', 'P', 'uv'].every(endsWithAlpha)).toBe(true);
});
