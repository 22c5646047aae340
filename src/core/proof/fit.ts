/** Least squares by the normal equations. */

/** Solves a·x = b with the largest element of each column as pivot; null where the equations say nothing of an unknown. */
export function solve(a: readonly (readonly number[])[], b: readonly number[]): number[] | null {
  const rows = a.map((row, i) => [...row, b[i]]);
  const n = rows.length;
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(rows[i][k]) > Math.abs(rows[pivot][k])) pivot = i;
    const scale = Math.max(...a[k].map(Math.abs), 1e-300);
    if (Math.abs(rows[pivot][k]) < scale * 1e-10) return null;
    [rows[k], rows[pivot]] = [rows[pivot], rows[k]];
    for (let i = 0; i < n; i++) {
      if (i === k) continue;
      const factor = rows[i][k] / rows[k][k];
      for (let j = k; j <= n; j++) rows[i][j] -= factor * rows[k][j];
    }
  }
  return rows.map((row, k) => row[n] / row[k]);
}

/** Weights w with Σ w·columns nearest to the target over pixels that count; null where columns depend on each other. */
export function weightsOf(
  target: ArrayLike<number>,
  columns: readonly ArrayLike<number>[],
  counts: Uint8Array | null = null,
): number[] | null {
  const n = columns.length;
  const a = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  const b = new Array<number>(n).fill(0);
  for (let i = 0; i < target.length; i++) {
    if ((counts && counts[i] === 0) || !Number.isFinite(target[i])) continue;
    for (let j = 0; j < n; j++) {
      b[j] += columns[j][i] * target[i];
      for (let k = 0; k <= j; k++) a[j][k] += columns[j][i] * columns[k][i];
    }
  }
  for (let j = 0; j < n; j++) for (let k = 0; k < j; k++) a[k][j] = a[j][k];
  return solve(a, b);
}
