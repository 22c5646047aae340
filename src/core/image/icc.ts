import { applied, type Matrix, times } from './matrix';
import { adaptation, type Chromaticities, chromaticitiesOf, SPACE_NAMES, type Space, toXyz } from './primaries';

/** How light is encoded for a screen: by the curve of sRGB, or by a power of 2.4 [ITU-R BT.1886]. */
export type ScreenCurve = 'srgb' | 'bt1886';

/** Colours of profiles are told under this white, D50. */
const D50_XYZ = [0.9642, 1, 0.8249];
const D50 = [D50_XYZ[0] / (D50_XYZ[0] + 1 + D50_XYZ[2]), 1 / (D50_XYZ[0] + 1 + D50_XYZ[2])];

/** XYZ under D50 of linear colours of a space. */
const underD50 = (of: Chromaticities): number[][] => times(adaptation(of.slice(6, 8), D50), toXyz(of));

/** Parametric curves [ISO 15076-1, 10.18]: type, then its numbers. */
const CURVES: Record<ScreenCurve, { type: number; of: readonly number[] }> = {
  srgb: { type: 3, of: [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045] },
  bt1886: { type: 0, of: [2.4] },
};

const fixed = (v: number) => Math.round(v * 65536);
const signs = (text: string) => [...text].map((c) => c.charCodeAt(0));

/** Bytes of a tag: its type, four zeros, then words of 32 bits or bytes. */
function tag(type: string, words: readonly number[], bytes: readonly number[] = []): Uint8Array {
  const out = new Uint8Array(Math.ceil((8 + words.length * 4 + bytes.length) / 4) * 4);
  const view = new DataView(out.buffer);
  out.set(signs(type));
  words.forEach((w, i) => {
    view.setInt32(8 + i * 4, w);
  });
  out.set(bytes, 8 + words.length * 4);
  return out;
}

/** Text in one language, in UTF-16. */
const told = (text: string) =>
  tag(
    'mluc',
    [
      1,
      12,
      (signs('en').reduce((n, c) => (n << 8) | c, 0) << 16) | signs('US').reduce((n, c) => (n << 8) | c, 0),
      text.length * 2,
      28,
    ],
    [...text].flatMap((c) => [0, c.charCodeAt(0)]),
  );

/** An ICC profile, version 4, of a screen with these primaries and this curve [ISO 15076-1:2010]. */
export function profileOf(space: Space, curve: ScreenCurve): Uint8Array {
  const of = chromaticitiesOf(space);
  const m = underD50(of);
  const column = (c: number) => tag('XYZ ', [fixed(m[0][c]), fixed(m[1][c]), fixed(m[2][c])]);
  const { type, of: numbers } = CURVES[curve];
  const led = tag('para', [type << 16, ...numbers.map(fixed)]);
  const name = `${space}, ${curve === 'srgb' ? 'curve of sRGB' : 'BT.1886'}`;
  const tags: [string, Uint8Array][] = [
    ['desc', told(name)],
    ['cprt', told('No copyright, use freely')],
    ['wtpt', tag('XYZ ', D50_XYZ.map(fixed))],
    ['chad', tag('sf32', adaptation(of.slice(6, 8), D50).flat().map(fixed))],
    ['rXYZ', column(0)],
    ['gXYZ', column(1)],
    ['bXYZ', column(2)],
    ['rTRC', led],
    ['gTRC', led],
    ['bTRC', led],
  ];
  const head = 128 + 4 + tags.length * 12;
  const size = head + tags.reduce((n, [, bytes]) => n + bytes.length, 0);
  const out = new Uint8Array(size);
  const view = new DataView(out.buffer);
  view.setUint32(0, size);
  view.setUint32(8, 0x04000000);
  out.set(signs('mntrRGB XYZ '), 12);
  // A date is wanted; a profile is the same whenever it is written.
  [2026, 1, 1].forEach((v, i) => {
    view.setUint16(24 + i * 2, v);
  });
  out.set(signs('acsp'), 36);
  D50_XYZ.forEach((v, i) => {
    view.setInt32(68 + i * 4, fixed(v));
  });
  view.setUint32(128, tags.length);
  let at = head;
  tags.forEach(([sign, bytes], i) => {
    out.set(signs(sign), 132 + i * 12);
    view.setUint32(136 + i * 12, at);
    view.setUint32(140 + i * 12, bytes.length);
    out.set(bytes, at);
    at += bytes.length;
  });
  return out;
}

/** How far apart colours of primaries are at most to be taken for the same: profiles round them, and adapt white in ways of their own. */
const SAME = 0.004;

/** The space that a profile of a screen tells, where it is one of those known here; null for any other, and for what is no profile. */
export function spaceOfProfile(bytes: Uint8Array): Space | null {
  if (bytes.length < 132) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const columns = ['rXYZ', 'gXYZ', 'bXYZ'].map((sign) => {
    for (let i = 0; i < Math.min(100, view.getUint32(128)) && 144 + i * 12 <= bytes.length; i++) {
      const own = String.fromCharCode(...bytes.subarray(132 + i * 12, 136 + i * 12));
      const at = view.getUint32(136 + i * 12);
      if (own !== sign || at + 20 > bytes.length) continue;
      return [0, 1, 2].map((k) => view.getInt32(at + 8 + k * 4) / 65536);
    }
    return null;
  });
  if (columns.some((c) => c === null)) return null;
  const told: Matrix = [0, 1, 2].map((i) => columns.map((c) => c![i]));
  // What it has of white is the white it adapts to.
  const white = applied(told, [1, 1, 1]);
  if (white.some((v, i) => Math.abs(v - D50_XYZ[i]) > 0.02)) return null;
  return (
    SPACE_NAMES.find((name) =>
      underD50(chromaticitiesOf(name)).every((row, i) => row.every((v, j) => Math.abs(v - told[i][j]) <= SAME)),
    ) ?? null
  );
}
