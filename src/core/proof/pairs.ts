import { between, type Matrix, SPACE_NAMES, type Space } from '../image';

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
