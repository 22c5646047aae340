/** IEEE 754 half-precision conversion, round to nearest, ties to even. */
const f32 = new Float32Array(1);
const u32 = new Int32Array(f32.buffer);

/**
 * By the sign and exponent of a float, the nine highest bits: the half that its fraction is added to, how far the fraction is
 * moved for it, and the one before the fraction that halves too small for an exponent need [van der Zijp 2008, with rounding].
 */
const BASE = new Uint16Array(512);
const SHIFT = new Uint8Array(512);
const ONE = new Int32Array(512);
for (let i = 0; i < 512; i++) {
  const [sign, e] = [(i >> 8) << 15, (i & 255) - 112];
  const isSmall = e <= 0;
  BASE[i] = sign | (e >= 31 ? 0x7c00 : isSmall ? 0 : e << 10);
  SHIFT[i] = e >= 31 || e < -10 ? 25 : isSmall ? 14 - e : 13;
  ONE[i] = isSmall && e >= -10 ? 0x800000 : 0;
}

/** Half bits of the bits of a float. */
function halfOf(bits: number): number {
  const top = bits >>> 23;
  const fraction = (bits & 0x7fffff) | ONE[top];
  // Numbers that are none have an exponent of ones, as infinity has.
  if ((top & 255) === 255 && fraction !== 0) return BASE[top] | 0x200 | (fraction >>> 13);
  const shift = SHIFT[top];
  const half = BASE[top] + (fraction >>> shift);
  const rest = fraction & ((1 << shift) - 1);
  const tie = 1 << (shift - 1);
  return rest > tie || (rest === tie && (half & 1) === 1) ? half + 1 : half;
}

/** Half bits of a number; beyond ±65504 (after rounding) becomes infinity, NaN stays NaN. */
export function toHalf(value: number): number {
  f32[0] = value;
  return halfOf(u32[0]);
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
