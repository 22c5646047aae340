// Undoes the predictor of OpenEXR's ZIP, ZIPS and RLE, and makes floats of halves, sixteen bytes at a time.

const LANE: usize = 16;
const ZERO = i8x16.splat(0);
const TOP = i8x16.splat(-128);

/** Adds up `n` bytes in place: each the sum of all before it less 128 for each but the first. What follows them up to a whole lane is lost. */
export function addUp(at: usize, n: usize): void {
  if (n == 0) return;
  // The first is taken as it is.
  store<u8>(at, load<u8>(at) ^ 0x80);
  let before = ZERO;
  for (let i: usize = 0; i < n; i += LANE) {
    let v = v128.xor(v128.load(at + i), TOP);
    v = i8x16.add(v, v128.shuffle<i8>(ZERO, v, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30));
    v = i8x16.add(v, v128.shuffle<i8>(ZERO, v, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29));
    v = i8x16.add(v, v128.shuffle<i8>(ZERO, v, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
    v = i8x16.add(v, v128.shuffle<i8>(ZERO, v, 0, 0, 0, 0, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23));
    v = i8x16.add(v, before);
    v128.store(at + i, v);
    before = i8x16.splat(i8x16.extract_lane_s(v, 15));
  }
}

// @ts-ignore: decorator
@inline
function floats(h: v128): v128 {
  const size = v128.and(h, i32x4.splat(0x7fff));
  const sign = i32x4.shl(v128.and(h, i32x4.splat(0x8000)), 16);
  // Exponents of half are 112 less: a factor moves them, and makes small ones what they are.
  const finite = f32x4.mul(i32x4.shl(size, 13), f32x4.splat(reinterpret<f32>(0x77800000)));
  const none = v128.and(i32x4.ge_s(size, i32x4.splat(0x7c00)), i32x4.splat(0x7f800000));
  return v128.or(v128.or(finite, none), sign);
}

/** Makes `count` floats at `to` of halves whose low bytes are at `low` and high bytes at `high`; up to a lane more is read and written. */
export function halves(low: usize, high: usize, to: usize, count: usize): void {
  for (let i: usize = 0; i < count; i += LANE, to += 4 * LANE) {
    const l = v128.load(low + i), h = v128.load(high + i);
    const a = v128.shuffle<i8>(l, h, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
    const b = v128.shuffle<i8>(l, h, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
    v128.store(to, floats(i32x4.extend_low_i16x8_u(a)));
    v128.store(to + LANE, floats(i32x4.extend_high_i16x8_u(a)));
    v128.store(to + 2 * LANE, floats(i32x4.extend_low_i16x8_u(b)));
    v128.store(to + 3 * LANE, floats(i32x4.extend_high_i16x8_u(b)));
  }
}
