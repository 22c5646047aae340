/**
 * Non-negative weighted least squares: x ≥ 0 that makes Σ w_i (y_i − Σ_k a_ik x_k)² least, by the active set of Lawson &
 * Hanson [Solving Least Squares Problems, 1974, ch. 23]. `ridge` pulls x towards `prior`, so
 * that columns which the data do not tell apart stay near what is known of them.
 */
export function nonNegativeLeastSquares(
  rows: readonly (readonly number[])[],
  values: readonly number[],
  { weights, ridge = 0, prior }: { weights?: readonly number[]; ridge?: number; prior?: readonly number[] } = {},
): Float64Array {
  const count = rows[0]?.length ?? 0;
  const normal = Array.from({ length: count }, () => new Float64Array(count));
  const right = new Float64Array(count);
  rows.forEach((row, i) => {
    const w = weights?.[i] ?? 1;
    for (let k = 0; k < count; k++) {
      right[k] += w * row[k] * values[i];
      for (let l = 0; l < count; l++) normal[k][l] += w * row[k] * row[l];
    }
  });
  // The pull is relative to each column's own weight, so that units do not matter.
  for (let k = 0; k < count; k++) {
    const pull = ridge * normal[k][k];
    right[k] += pull * (prior?.[k] ?? 0);
    normal[k][k] += pull;
  }
  const x = new Float64Array(count);
  const free: number[] = [];
  const gain = (k: number) => right[k] - normal[k].reduce((sum, v, l) => sum + v * x[l], 0);
  for (let round = 0; round < 3 * count + 3; round++) {
    const rest = Array.from({ length: count }, (_, k) => k).filter((k) => !free.includes(k) && normal[k][k] > 0);
    const next = rest.reduce((best, k) => (best < 0 || scaled(k) > scaled(best) ? k : best), -1);
    if (next < 0 || !(scaled(next) > TOLERANCE)) break;
    free.push(next);
    for (;;) {
      const z = solve(
        free.map((k) => free.map((l) => normal[k][l])),
        free.map((k) => right[k]),
      );
      if (z.every((v) => v > 0)) {
        free.forEach((k, i) => {
          x[k] = z[i];
        });
        break;
      }
      // As far towards the free answer as nothing turns negative; what reaches zero leaves.
      let step = 1;
      free.forEach((k, i) => {
        if (z[i] <= 0) step = Math.min(step, x[k] / (x[k] - z[i] || 1));
      });
      free.forEach((k, i) => {
        x[k] += step * (z[i] - x[k]);
      });
      for (const k of free.filter((k) => x[k] <= 1e-15 * Math.max(...x) || x[k] <= 0)) {
        x[k] = 0;
        free.splice(free.indexOf(k), 1);
      }
      if (free.length === 0) break;
    }
  }
  return x;

  function scaled(k: number): number {
    const own = normal[k][k];
    return (
      gain(k) /
      Math.sqrt(own) /
      Math.max(1e-300, Math.sqrt(values.reduce((t, v, i) => t + (weights?.[i] ?? 1) * v * v, 0)))
    );
  }
}

/** Least gain, as a share of the data's own size, for which a column is taken in. */
const TOLERANCE = 1e-10;

/** Solves a small symmetric system by elimination with pivots; a column without any keeps zero. */
function solve(a: number[][], b: number[]): number[] {
  const n = b.length;
  const m = a.map((row, i) => [...row, b[i]]);
  for (let c = 0; c < n; c++) {
    let pivot = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(m[r][c]) > Math.abs(m[pivot][c])) pivot = r;
    [m[c], m[pivot]] = [m[pivot], m[c]];
    if (Math.abs(m[c][c]) < 1e-300) continue;
    for (let r = 0; r < n; r++) {
      if (r === c) continue;
      const k = m[r][c] / m[c][c];
      if (k !== 0) for (let j = c; j <= n; j++) m[r][j] -= k * m[c][j];
    }
  }
  return m.map((row, i) => (Math.abs(row[i]) < 1e-300 ? 0 : row[n] / row[i]));
}
