/** Colour spaces by the chromaticities of their primaries and white, x and y each. */
const SPACES = {
  'Rec.709': { primaries: [0.64, 0.33, 0.3, 0.6, 0.15, 0.06], white: [0.3127, 0.329] },
  'Rec.2020': { primaries: [0.708, 0.292, 0.17, 0.797, 0.131, 0.046], white: [0.3127, 0.329] },
  'Display P3': { primaries: [0.68, 0.32, 0.265, 0.69, 0.15, 0.06], white: [0.3127, 0.329] },
  ACEScg: { primaries: [0.713, 0.293, 0.165, 0.83, 0.128, 0.044], white: [0.32168, 0.33767] },
  'ACES2065-1': { primaries: [0.7347, 0.2653, 0, 1, 0.0001, -0.077], white: [0.32168, 0.33767] },
} as const;
type Space = keyof typeof SPACES;
export const SPACE_NAMES = Object.keys(SPACES) as Space[];

/** Row by row. */
export type Matrix = readonly (readonly number[])[];

export const times = (a: Matrix, b: Matrix): number[][] =>
  a.map((row) => b[0].map((_, j) => row.reduce((sum, v, k) => sum + v * b[k][j], 0)));

export const applied = (m: Matrix, v: readonly number[]): number[] =>
  m.map((row) => row.reduce((sum, w, k) => sum + w * v[k], 0));

/** Inverse of three by three by the rule of Cramer. */
export function inverse(m: Matrix): number[][] {
  const cofactor = (i: number, j: number) => {
    const [r, c] = [[0, 1, 2].filter((k) => k !== i), [0, 1, 2].filter((k) => k !== j)];
    return (m[r[0]][c[0]] * m[r[1]][c[1]] - m[r[0]][c[1]] * m[r[1]][c[0]]) * ((i + j) % 2 === 0 ? 1 : -1);
  };
  const determinant = [0, 1, 2].reduce((sum, j) => sum + m[0][j] * cofactor(0, j), 0);
  return [0, 1, 2].map((i) => [0, 1, 2].map((j) => cofactor(j, i) / determinant));
}

const xyz = ([x, y]: readonly number[]): number[] => [x / y, 1, (1 - x - y) / y];

/** Cone responses of Bradford [Lam 1985], in which white is adapted to white. */
const BRADFORD: Matrix = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];

function toXyz(space: Space): number[][] {
  const { primaries: p, white } = SPACES[space];
  const columns = [0, 2, 4].map((k) => xyz([p[k], p[k + 1]]));
  const m = [0, 1, 2].map((i) => columns.map((c) => c[i]));
  const scale = applied(inverse(m), xyz(white));
  return m.map((row) => row.map((v, j) => v * scale[j]));
}

/** Linear colour of one space in another, white adapted by Bradford [SMPTE RP 177; ISO 15076-1, annex E]. */
export function between(from: Space, to: Space): number[][] {
  const [own, other] = [SPACES[from], SPACES[to]].map(({ white }) => applied(BRADFORD, xyz(white)));
  const adapt = times(
    inverse(BRADFORD),
    times(
      [0, 1, 2].map((i) => [0, 1, 2].map((j) => (i === j ? other[i] / own[i] : 0))),
      BRADFORD,
    ),
  );
  return times(inverse(toXyz(to)), times(adapt, toXyz(from)));
}

/** How far apart two matrices are at most in one element to be taken for one. */
const ALIKE = 0.01;

/** The spaces between which a matrix leads; null for none of those known here. */
export function pairOf(m: Matrix): [Space, Space] | null {
  for (const from of SPACE_NAMES)
    for (const to of SPACE_NAMES) {
      if (from === to) continue;
      const own = between(from, to);
      if (m.every((row, i) => row.every((v, j) => Math.abs(v - own[i][j]) < ALIKE))) return [from, to];
    }
  return null;
}
