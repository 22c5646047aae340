/** IEEE 754 half-precision conversion, round to nearest, ties to even. */
const f32 = new Float32Array(1);
const u32 = new Uint32Array(f32.buffer);

/** Half bits of a number; beyond ±65504 (after rounding) becomes infinity, NaN stays NaN. */
export function toHalf(value: number): number {
  f32[0] = value;
  const bits = u32[0];
  const sign = (bits >>> 16) & 0x8000;
  const exponent = (bits >>> 23) & 0xff;
  const mantissa = bits & 0x7fffff;
  if (exponent === 0xff) return sign | 0x7c00 | (mantissa ? 0x200 | (mantissa >>> 13) : 0);
  const e = exponent - 112;
  if (e >= 31) return sign | 0x7c00;
  if (e <= 0) {
    if (e < -10) return sign;
    const m = mantissa | 0x800000;
    const shift = 14 - e;
    const half = m >>> shift;
    const rest = m & ((1 << shift) - 1);
    const tie = 1 << (shift - 1);
    return sign | (half + (rest > tie || (rest === tie && half & 1) ? 1 : 0));
  }
  const half = (e << 10) | (mantissa >>> 13);
  const rest = mantissa & 0x1fff;
  return sign | (half + (rest > 0x1000 || (rest === 0x1000 && half & 1) ? 1 : 0));
}

/** Number of half bits, exactly. */
export function fromHalf(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >>> 10) & 31;
  const mantissa = bits & 0x3ff;
  if (exponent === 31) return mantissa ? Number.NaN : sign * Infinity;
  return exponent === 0 ? sign * mantissa * 2 ** -24 : sign * (1024 + mantissa) * 2 ** (exponent - 25);
}

let table: Float32Array | null = null;
/** The number of every half. */
export function halfTable(): Float32Array {
  table ??= Float32Array.from({ length: 65536 }, (_, i) => fromHalf(i));
  return table;
}

/** Whether every finite value stays finite as half. */
export const fitsHalf = (plane: Float32Array): boolean =>
  plane.every((v) => !Number.isFinite(v) || Math.abs(v) < 65520);

/**
 * Whether a plane may be stored as half: no finite value beyond 65504, and a relative rounding error
 * of at most 1e-3 in the root mean square.
 */
export function halfIsSafe(plane: Float32Array): boolean {
  let error = 0;
  let power = 0;
  for (let i = 0; i < plane.length; i++) {
    const v = plane[i];
    if (!Number.isFinite(v)) continue;
    if (Math.abs(v) > 65504) return false;
    const d = fromHalf(toHalf(v)) - v;
    error += d * d;
    power += v * v;
  }
  return error <= power * 1e-6;
}

/** Half bits of a whole plane. `out` has as many values as `src`. */
export function halfPlane(src: Float32Array, out: Uint16Array): void {
  for (let i = 0; i < src.length; i++) out[i] = toHalf(src[i]);
}
