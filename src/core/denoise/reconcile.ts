/** Share of a part's own square that counts as its variance, so that parts without noise can give way at all. */
const LEAST_SHARE = 1e-4;

/**
 * Makes parts sum to `whole` in every value, in place: what is missing is dealt out by the variances of the parts, the least
 * squares under that constraint; parts that would be negative are none, and the others give what they took.
 */
export function reconcile(
  parts: readonly Float32Array[],
  variances: readonly Float32Array[],
  whole: Float32Array,
): void {
  for (let i = 0; i < whole.length; i++) {
    let sum = 0;
    let variance = 0;
    for (let j = 0; j < parts.length; j++) {
      sum += parts[j][i];
      variance += variances[j][i] + LEAST_SHARE * parts[j][i] ** 2;
    }
    const missing = whole[i] - sum;
    let positive = 0;
    for (let j = 0; j < parts.length; j++) {
      const own = variances[j][i] + LEAST_SHARE * parts[j][i] ** 2;
      const share = variance > 0 ? own / variance : 1 / parts.length;
      parts[j][i] = Math.max(0, parts[j][i] + share * missing);
      positive += parts[j][i];
    }
    if (positive > 0) for (const p of parts) p[i] *= whole[i] / positive;
  }
}
