/** Cosine transforms of eight by eight values, as OpenEXR's DWA has them: orthonormal, so that a flat block of v gives 8 v. */

export const SIDE = 8;
export const AREA = SIDE * SIDE;

/** Places of a block in order of rising frequency, corner by corner: where the n-th lies, row by row. */
export const ZIGZAG: Uint8Array = (() => {
  const order = new Uint8Array(AREA);
  let n = 0;
  for (let d = 0; d < 2 * SIDE - 1; d++)
    for (let k = Math.max(0, d - SIDE + 1); k <= Math.min(d, SIDE - 1); k++)
      order[n++] = d % 2 === 0 ? (d - k) * SIDE + k : k * SIDE + d - k;
  return order;
})();

// c(k)·cos(kπ/16) of the transform's definition, c(k) = ½ from k = 1 on; c(0) = √⅛ is the fourth.
const [C1, C2, C3, C4, C5, C6, C7] = [1, 2, 3, 4, 5, 6, 7].map((k) => 0.5 * Math.cos((k * Math.PI) / 16));

/** One row or column of eight, `step` apart, from values to frequencies: even ones of the sums of both ends, odd of the differences. */
function forth(b: Float32Array, at: number, step: number): void {
  const [i1, i2, i3, i4] = [at + step, at + 2 * step, at + 3 * step, at + 4 * step];
  const [i5, i6, i7] = [at + 5 * step, at + 6 * step, at + 7 * step];
  const [e0, e1, e2, e3] = [b[at] + b[i7], b[i1] + b[i6], b[i2] + b[i5], b[i3] + b[i4]];
  const [o0, o1, o2, o3] = [b[at] - b[i7], b[i1] - b[i6], b[i2] - b[i5], b[i3] - b[i4]];
  b[at] = C4 * (e0 + e1 + e2 + e3);
  b[i4] = C4 * (e0 - e1 - e2 + e3);
  b[i2] = C2 * (e0 - e3) + C6 * (e1 - e2);
  b[i6] = C6 * (e0 - e3) - C2 * (e1 - e2);
  b[i1] = C1 * o0 + C3 * o1 + C5 * o2 + C7 * o3;
  b[i3] = C3 * o0 - C7 * o1 - C1 * o2 - C5 * o3;
  b[i5] = C5 * o0 - C1 * o1 + C7 * o2 + C3 * o3;
  b[i7] = C7 * o0 - C5 * o1 + C3 * o2 - C1 * o3;
}

/** The other way. */
function back(b: Float32Array, at: number, step: number): void {
  const [i1, i2, i3, i4] = [at + step, at + 2 * step, at + 3 * step, at + 4 * step];
  const [i5, i6, i7] = [at + 5 * step, at + 6 * step, at + 7 * step];
  const [f1, f3, f5, f7] = [b[i1], b[i3], b[i5], b[i7]];
  const sum = C4 * (b[at] + b[i4]);
  const difference = C4 * (b[at] - b[i4]);
  const low = C2 * b[i2] + C6 * b[i6];
  const high = C6 * b[i2] - C2 * b[i6];
  const [e0, e1, e2, e3] = [sum + low, difference + high, difference - high, sum - low];
  const o0 = C1 * f1 + C3 * f3 + C5 * f5 + C7 * f7;
  const o1 = C3 * f1 - C7 * f3 - C1 * f5 - C5 * f7;
  const o2 = C5 * f1 - C1 * f3 + C7 * f5 + C3 * f7;
  const o3 = C7 * f1 - C5 * f3 + C3 * f5 - C1 * f7;
  b[at] = e0 + o0;
  b[i1] = e1 + o1;
  b[i2] = e2 + o2;
  b[i3] = e3 + o3;
  b[i4] = e3 - o3;
  b[i5] = e2 - o2;
  b[i6] = e1 - o1;
  b[i7] = e0 - o0;
}

/** The values of a block to their frequencies, in place. */
export function toFrequencies(block: Float32Array): void {
  for (let y = 0; y < SIDE; y++) forth(block, y * SIDE, 1);
  for (let x = 0; x < SIDE; x++) forth(block, x, SIDE);
}

/** Frequencies back to values, in place. `rows`: rows that hold anything but zeros. */
export function toValues(block: Float32Array, rows: number): void {
  for (let y = 0; y < rows; y++) back(block, y * SIDE, 1);
  for (let x = 0; x < SIDE; x++) back(block, x, SIDE);
}
