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
