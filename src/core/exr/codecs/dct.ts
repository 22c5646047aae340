/** Cosine transforms of eight by eight values, as OpenEXR's DWA has them: orthonormal, so that a flat block of v gives 8 v. */

export const SIDE = 8;
export const AREA = SIDE * SIDE;

/** C[k·8 + x] = c(k)·cos((2x + 1)kπ/16), c(0) = √⅛, otherwise ½. */
const COSINES = Float32Array.from({ length: AREA }, (_, i) => {
  const [k, x] = [i >> 3, i & 7];
  return (k === 0 ? Math.sqrt(1 / 8) : 0.5) * Math.cos(((2 * x + 1) * k * Math.PI) / 16);
});

/** Places of a block in order of rising frequency, corner by corner: where the n-th lies, row by row. */
export const ZIGZAG: Uint8Array = (() => {
  const order = new Uint8Array(AREA);
  let n = 0;
  for (let d = 0; d < 2 * SIDE - 1; d++)
    for (let k = Math.max(0, d - SIDE + 1); k <= Math.min(d, SIDE - 1); k++)
      order[n++] = d % 2 === 0 ? (d - k) * SIDE + k : k * SIDE + d - k;
  return order;
})();

const between = new Float32Array(AREA);

/** The values of a block to their frequencies, in place. */
export function toFrequencies(block: Float32Array): void {
  for (let y = 0; y < SIDE; y++)
    for (let k = 0; k < SIDE; k++) {
      let sum = 0;
      for (let x = 0; x < SIDE; x++) sum += COSINES[k * SIDE + x] * block[y * SIDE + x];
      between[y * SIDE + k] = sum;
    }
  for (let k = 0; k < SIDE; k++)
    for (let x = 0; x < SIDE; x++) {
      let sum = 0;
      for (let y = 0; y < SIDE; y++) sum += COSINES[k * SIDE + y] * between[y * SIDE + x];
      block[k * SIDE + x] = sum;
    }
}

// Half the cosines: those of x and of 7 − x differ in the sign of the odd ones alone.
const [C1, C2, C3, C4, C5, C6, C7] = [1, 2, 3, 4, 5, 6, 7].map((k) => 0.5 * Math.cos((k * Math.PI) / 16));

/** One row or column of eight, `step` apart, from frequencies to values. */
function line(b: Float32Array, at: number, step: number): void {
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

/** Frequencies back to values, in place. `rows`: rows that hold anything but zeros. */
export function toValues(block: Float32Array, rows: number): void {
  if (rows === 1 && block.subarray(1, SIDE).every((v) => v === 0)) {
    block.fill(block[0] / SIDE);
    return;
  }
  for (let y = 0; y < rows; y++) line(block, y * SIDE, 1);
  for (let x = 0; x < SIDE; x++) line(block, x, SIDE);
}
