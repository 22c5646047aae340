// Halves and floats, one at a time and four at a time. Rounding is to the nearest, ties to even.

const LANE: usize = 16;
/** Exponents of half are 112 less. */
const MOVED: u32 = 112 << 23;
/** Below these bits a half is so many 2^-24, which are taken as a whole number: processors are slow with floats that small. */
const NORMAL: u32 = 0x400;
const STEP: f32 = reinterpret<f32>((127 - 24) << 23);

// @ts-ignore: decorator
@inline
export function floatOf(half: u32): f32 {
  const size = half & 0x7fff;
  const sign = (half & 0x8000) << 16;
  const finite = size < NORMAL ? reinterpret<u32>(<f32>size * STEP) : (size << 13) + MOVED;
  return reinterpret<f32>(sign | finite | (size >= 0x7c00 ? 0x7f800000 : 0));
}

// @ts-ignore: decorator
@inline
export function floats(h: v128): v128 {
  const size = v128.and(h, i32x4.splat(0x7fff));
  const sign = i32x4.shl(v128.and(h, i32x4.splat(0x8000)), 16);
  const small = f32x4.mul(f32x4.convert_i32x4_s(size), f32x4.splat(STEP));
  const usual = i32x4.add(i32x4.shl(size, 13), i32x4.splat(MOVED));
  const finite = v128.bitselect(small, usual, i32x4.lt_s(size, i32x4.splat(NORMAL)));
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

const SIZE = i32x4.splat(0x7fffffff);
const INFINITE: i32 = 0x7f800000;

/** Zero in place of what is infinite or no number. */
// @ts-ignore: decorator
@inline
function finite(f: v128): v128 {
  return v128.and(f, i32x4.lt_s(v128.and(f, SIZE), i32x4.splat(INFINITE)));
}

/** Bits of the largest size among finite floats; `count` is a multiple of four. */
export function largestFinite(from: usize, count: usize): u32 {
  let most = i32x4.splat(0);
  const end = from + (count << 2);
  for (; from < end; from += LANE) most = i32x4.max_s(most, v128.and(finite(v128.load(from)), SIZE));
  const two = i32x4.max_s(most, v128.shuffle<i32>(most, most, 2, 3, 0, 1));
  return max(i32x4.extract_lane(two, 0), i32x4.extract_lane(two, 1));
}

/** Adds the squares of what finite floats lose as halves to the number at `to`, and their own to the one after; a multiple of four. */
export function addLosses(from: usize, count: usize, to: usize): void {
  let loss = f64x2.splat(0), power = f64x2.splat(0);
  const end = from + (count << 2);
  for (; from < end; from += LANE) {
    const f = finite(v128.load(from));
    const d = f32x4.sub(floats(halvesOf(f)), f);
    const upper = v128.shuffle<i32>(f, f, 2, 3, 0, 1), upperLoss = v128.shuffle<i32>(d, d, 2, 3, 0, 1);
    loss = f64x2.add(loss, f64x2.add(squares(d), squares(upperLoss)));
    power = f64x2.add(power, f64x2.add(squares(f), squares(upper)));
  }
  store<f64>(to, load<f64>(to) + f64x2.extract_lane(loss, 0) + f64x2.extract_lane(loss, 1));
  store<f64>(to, load<f64>(to, 8) + f64x2.extract_lane(power, 0) + f64x2.extract_lane(power, 1), 8);
}

// @ts-ignore: decorator
@inline
function squares(f: v128): v128 {
  const wide = f64x2.promote_low_f32x4(f);
  return f64x2.mul(wide, wide);
}
