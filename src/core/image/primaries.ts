import { LUMINANCE_REC709 } from './color';
import { applied, inverse, type Matrix, times } from './matrix';

/** Primaries of a linear space: x and y of red, green, blue and white, as OpenEXR writes them. */
export type Chromaticities = readonly number[];

const D65 = [0.3127, 0.329];
const D60_OF_ACES = [0.32168, 0.33767];

/** [ITU-R BT.709; BT.2020; SMPTE EG 432-1; Academy S-2014-004; SMPTE ST 2065-1] */
const SPACES = {
  'Rec.709': [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, ...D65],
  'Rec.2020': [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, ...D65],
  'Display P3': [0.68, 0.32, 0.265, 0.69, 0.15, 0.06, ...D65],
  ACEScg: [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, ...D60_OF_ACES],
  'ACES2065-1': [0.7347, 0.2653, 0, 1, 0.0001, -0.077, ...D60_OF_ACES],
} as const satisfies Record<string, Chromaticities>;
export type Space = keyof typeof SPACES;
export const SPACE_NAMES = Object.keys(SPACES) as [Space, ...Space[]];

/** Spaces that pictures are worked on in. */
export const WORKING_SPACES = ['Rec.709', 'ACEScg'] as const satisfies Space[];
export type WorkingSpace = (typeof WORKING_SPACES)[number];

export const chromaticitiesOf = (space: Space): Chromaticities => SPACES[space];

/** How far apart chromaticities are at most to be taken for the same: files round them. */
const SAME = 0.0015;

/** The space that has these primaries; null for none of those known here. */
export const spaceOf = (of: Chromaticities): Space | null =>
  SPACE_NAMES.find((name) => SPACES[name].every((v, i) => Math.abs(v - of[i]) <= SAME)) ?? null;

/** XYZ of a chromaticity at Y = 1. */
const xyz = (x: number, y: number): number[] => [x / y, 1, (1 - x - y) / y];

/** Cone responses of Bradford [Lam 1985], in which white is adapted to white. */
const BRADFORD: Matrix = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];

/** Linear colour to XYZ, white at Y = 1 [SMPTE RP 177]. */
export function toXyz(of: Chromaticities): number[][] {
  const columns = [0, 2, 4].map((k) => xyz(of[k], of[k + 1]));
  const m = [0, 1, 2].map((i) => columns.map((c) => c[i]));
  const scale = applied(inverse(m), xyz(of[6], of[7]));
  return m.map((row) => row.map((v, j) => v * scale[j]));
}

/** XYZ seen under one white as it is seen under another, by Bradford [ISO 15076-1, annex E]; whites by x and y. */
export function adaptation(from: readonly number[], to: readonly number[]): number[][] {
  const [own, other] = [from, to].map(([x, y]) => applied(BRADFORD, xyz(x, y)));
  const gains = [0, 1, 2].map((i) => [0, 1, 2].map((j) => (i === j ? other[i] / own[i] : 0)));
  return times(inverse(BRADFORD), times(gains, BRADFORD));
}

const IDENTITY: Matrix = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
const whiteOf = (of: Chromaticities) => of.slice(6, 8);

const made = new Map<string, Matrix>();

/** Linear colour of one space in another, white adapted by Bradford; the same object for the same spaces. */
export function between(from: Space | Chromaticities, to: Space | Chromaticities): Matrix {
  const [a, b] = [from, to].map((s): Chromaticities => (typeof s === 'string' ? SPACES[s] : s));
  if (a.every((v, i) => v === b[i])) return IDENTITY;
  const key = `${a} ${b}`;
  const known = made.get(key) ?? times(inverse(toXyz(b)), times(adaptation(whiteOf(a), whiteOf(b)), toXyz(a)));
  made.set(key, known);
  return known;
}

/** Whether a matrix leaves everything as it is. */
export const isIdentity = (m: Matrix): boolean => m.every((row, i) => row.every((v, j) => v === IDENTITY[i][j]));

/** Weights of luminance of linear colours of a space: what each primary has of Y. */
export function luminanceWeights(space: Space): [number, number, number] {
  if (space === 'Rec.709') return [...LUMINANCE_REC709];
  const [, y] = toXyz(SPACES[space]);
  return [y[0], y[1], y[2]];
}

/** Planes of colours through a matrix: new ones, or the same where it changes nothing. */
export function planesThrough(
  planes: readonly Float32Array[],
  m: Matrix,
): readonly [Float32Array, Float32Array, Float32Array] {
  const [r, g, b] = planes;
  if (isIdentity(m)) return [r, g, b];
  const made = m.map(([x, y, z]) => {
    const out = new Float32Array(r.length);
    for (let i = 0; i < out.length; i++) out[i] = x * r[i] + y * g[i] + z * b[i];
    return out;
  });
  return [made[0], made[1], made[2]];
}
