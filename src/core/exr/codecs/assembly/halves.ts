// Halves and floats, one at a time and four at a time. Rounding is to the nearest, ties to even.

const LANE: usize = 16;
/** 2^112: exponents of half are 112 less, a factor moves them and makes small ones what they are. */
const MOVED: f32 = reinterpret<f32>(0x77800000);

// @ts-ignore: decorator
@inline
export function floatOf(half: u32): f32 {
  const size = half & 0x7fff;
  const sign = (half & 0x8000) << 16;
  const finite = reinterpret<u32>(reinterpret<f32>(size << 13) * MOVED);
  return reinterpret<f32>(sign | finite | (size >= 0x7c00 ? 0x7f800000 : 0));
}

// @ts-ignore: decorator
@inline
export function floats(h: v128): v128 {
  const size = v128.and(h, i32x4.splat(0x7fff));
  const sign = i32x4.shl(v128.and(h, i32x4.splat(0x8000)), 16);
  const finite = f32x4.mul(i32x4.shl(size, 13), f32x4.splat(MOVED));
  const none = v128.and(i32x4.ge_s(size, i32x4.splat(0x7c00)), i32x4.splat(0x7f800000));
  return v128.or(v128.or(finite, none), sign);
}

/** Beyond what half holds, the least that its exponents hold, and a number that moves the last bit of those below to the last of a float. */
const BEYOND: u32 = (127 + 16) << 23;
const LEAST: u32 = (127 - 14) << 23;
const LAST: u32 = (127 - 15 + 23 - 10 + 1) << 23;
const BIAS: u32 = 0xfff - ((127 - 15) << 23);

// @ts-ignore: decorator
@inline
export function halfOf(value: f32): u32 {
  const bits = reinterpret<u32>(value);
  const size = bits & 0x7fffffff;
  const sign = (bits >> 16) & 0x8000;
  if (size >= BEYOND) return sign | (size > 0x7f800000 ? 0x7e00 | ((size >> 13) & 0x3ff) : 0x7c00);
  if (size < LEAST) return sign | (reinterpret<u32>(reinterpret<f32>(size) + reinterpret<f32>(LAST)) - LAST);
  return sign | ((size + BIAS + ((size >> 13) & 1)) >> 13);
}

/** Halves in lanes of 32 bits. */
// @ts-ignore: decorator
@inline
export function halvesOf(f: v128): v128 {
  const size = v128.and(f, i32x4.splat(0x7fffffff));
  const sign = v128.and(i32x4.shr_u(f, 16), i32x4.splat(0x8000));
  const isNone = i32x4.gt_s(size, i32x4.splat(0x7f800000));
  const noneBits = v128.or(i32x4.splat(0x200), v128.and(i32x4.shr_u(size, 13), i32x4.splat(0x3ff)));
  const beyond = v128.or(i32x4.splat(0x7c00), v128.and(isNone, noneBits));
  const small = i32x4.sub(f32x4.add(size, i32x4.splat(LAST)), i32x4.splat(LAST));
  const odd = v128.and(i32x4.shr_u(size, 13), i32x4.splat(1));
  const usual = i32x4.shr_u(i32x4.add(i32x4.add(size, i32x4.splat(BIAS)), odd), 13);
  const within = v128.bitselect(small, usual, i32x4.lt_s(size, i32x4.splat(LEAST)));
  return v128.or(v128.bitselect(within, beyond, i32x4.lt_s(size, i32x4.splat(BEYOND))), sign);
}

/** Makes `count` floats at `to` of halves; up to a lane more is read and written. */
export function toFloats(from: usize, to: usize, count: usize): void {
  for (let i: usize = 0; i < count; i += 8, from += LANE, to += 2 * LANE) {
    const h = v128.load(from);
    v128.store(to, floats(i32x4.extend_low_i16x8_u(h)));
    v128.store(to + LANE, floats(i32x4.extend_high_i16x8_u(h)));
  }
}

/** Makes `count` halves at `to` of floats; up to a lane more is read and written. They may lie at the same place. */
export function toHalves(from: usize, to: usize, count: usize): void {
  for (let i: usize = 0; i < count; i += 8, from += 2 * LANE, to += LANE)
    v128.store(to, i16x8.narrow_i32x4_u(halvesOf(v128.load(from)), halvesOf(v128.load(from + LANE))));
}
