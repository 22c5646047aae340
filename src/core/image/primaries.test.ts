import fc from 'fast-check';
import {
  applied,
  between,
  chromaticitiesOf,
  isIdentity,
  luminanceWeights,
  planesThrough,
  profileOf,
  SPACE_NAMES,
  spaceOf,
  spaceOfProfile,
  toXyz,
} from '.';

const near = (got: readonly number[], want: readonly number[], digits: number) =>
  want.forEach((v, i) => {
    expect(got[i]).toBeCloseTo(v, digits);
  });

test('matrices are those that the standards print', () => {
  // Rec.709 [IEC 61966-2-1], AP1 [Academy S-2014-004, appendix], Display P3 [SMPTE RP 431-2 primaries with D65].
  const printed = {
    'Rec.709': [0.4124564, 0.3575761, 0.1804375, 0.2126729, 0.7151522, 0.072175, 0.0193339, 0.119192, 0.9503041],
    ACEScg: [
      ...[0.6624541811, 0.1340042065, 0.156187687],
      ...[0.2722287168, 0.6740817658, 0.0536895174],
      ...[-0.0055746495, 0.0040607335, 1.0103391003],
    ],
    'Display P3': [0.48657095, 0.26566769, 0.19821729, 0.22897456, 0.69173852, 0.07928691, 0, 0.04511338, 1.04394437],
  } as const;
  for (const [space, m] of Object.entries(printed)) {
    // White of sRGB is rounded otherwise in the older document.
    near(toXyz(chromaticitiesOf(space as 'ACEScg')).flat(), m, space === 'Rec.709' ? 3 : 6);
  }
  near(
    between('Rec.709', 'ACEScg').flat(),
    [0.613097, 0.339523, 0.047379, 0.070194, 0.916354, 0.013452, 0.020616, 0.10957, 0.869815],
    4,
  );
  near(luminanceWeights('ACEScg'), [0.2722287, 0.6740818, 0.0536895], 6);
});

test('white stays white, there and back is the same, and a space to itself changes nothing', () => {
  for (const from of SPACE_NAMES)
    for (const to of SPACE_NAMES) {
      near(applied(between(from, to), [1, 1, 1]), [1, 1, 1], 6);
      expect(isIdentity(between(from, to))).toBe(from === to);
    }
  const value = fc.float({ min: 0, max: 100, noNaN: true });
  fc.assert(
    fc.property(fc.tuple(value, value, value), fc.constantFrom(...SPACE_NAMES), (rgb, space) => {
      const planes = rgb.map((v) => Float32Array.of(v));
      const back = planesThrough(planesThrough(planes, between('Rec.709', space)), between(space, 'Rec.709'));
      const most = Math.max(...rgb, 1e-6);
      rgb.forEach((v, c) => {
        expect(Math.abs(back[c][0] - v) / most).toBeLessThanOrEqual(1e-5);
      });
    }),
  );
  const planes = [Float32Array.of(0.3), Float32Array.of(0.2), Float32Array.of(7)];
  expect(planesThrough(planes, between('ACEScg', 'ACEScg'))[2]).toBe(planes[2]);
});

test('primaries are known by their numbers, also rounded, and by profiles of screens', () => {
  for (const space of SPACE_NAMES) {
    const of = chromaticitiesOf(space);
    expect(spaceOf(of.map((v) => Math.round(v * 1000) / 1000))).toBe(space);
    expect(spaceOfProfile(profileOf(space, 'srgb'))).toBe(space);
    expect(spaceOfProfile(profileOf(space, 'bt1886'))).toBe(space);
  }
  expect(spaceOf([0.5, 0.4, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329])).toBeNull();
  expect(spaceOfProfile(new Uint8Array(0))).toBeNull();
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), (bytes) => {
      expect(spaceOfProfile(bytes)).toBeNull();
    }),
  );
});

test('a profile holds the colorants that are printed for sRGB under D50, and is padded as the standard wants', () => {
  const profile = profileOf('Rec.709', 'srgb');
  const view = new DataView(profile.buffer);
  expect(view.getUint32(0)).toBe(profile.length);
  expect(String.fromCharCode(...profile.subarray(36, 40))).toBe('acsp');
  const read = (sign: string) => {
    for (let i = 0; i < view.getUint32(128); i++) {
      const at = 132 + i * 12;
      if (String.fromCharCode(...profile.subarray(at, at + 4)) !== sign) continue;
      const from = view.getUint32(at + 4);
      expect(from % 4).toBe(0);
      return [0, 1, 2].map((k) => view.getInt32(from + 8 + k * 4) / 65536);
    }
    throw new Error(`no ${sign}`);
  };
  // The colorants of sRGB as the ICC publishes them.
  near(read('rXYZ'), [0.43607, 0.22249, 0.01392], 3);
  near(read('gXYZ'), [0.38515, 0.71687, 0.09708], 3);
  near(read('bXYZ'), [0.14307, 0.06061, 0.7141], 3);
  near(read('wtpt'), [0.9642, 1, 0.8249], 4);
});
