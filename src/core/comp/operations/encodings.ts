import { decodeSrgb, encodeSrgb, type Space } from '../../image';

/** How light may be encoded on its way into a look table: linear, by the curve of sRGB, or as one of the ACES spaces. */
export const TABLE_ENCODINGS = ['linear', 'srgb', 'ACEScg', 'ACEScct'] as const;
export type TableEncoding = (typeof TABLE_ENCODINGS)[number];

/** Where the curve of ACEScct leaves its straight foot, in light and encoded [Academy S-2016-001]. */
const [FOOT, FOOT_ENCODED] = [0.0078125, 0.155251141552511];
const [SLOPE, OFFSET] = [10.5402377416545, 0.0729055341958355];

export const encodeAcescct = (v: number): number => (v <= FOOT ? SLOPE * v + OFFSET : (Math.log2(v) + 9.72) / 17.52);
export const decodeAcescct = (v: number): number =>
  v <= FOOT_ENCODED ? (v - OFFSET) / SLOPE : 2 ** (v * 17.52 - 9.72);

interface Encoding {
  space: Space;
  encode: (light: number) => number;
  decode: (encoded: number) => number;
}
const same = (v: number) => v;
const ENCODINGS: Record<TableEncoding, Encoding> = {
  linear: { space: 'Rec.709', encode: same, decode: same },
  srgb: { space: 'Rec.709', encode: encodeSrgb, decode: decodeSrgb },
  ACEScg: { space: 'ACEScg', encode: same, decode: same },
  ACEScct: { space: 'ACEScg', encode: encodeAcescct, decode: decodeAcescct },
};

/** Primaries and curve of an encoding. */
export const encodingOf = (encoding: TableEncoding): Encoding => ENCODINGS[encoding];
