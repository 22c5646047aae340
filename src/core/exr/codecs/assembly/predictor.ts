// The predictor of OpenEXR's ZIP, ZIPS and RLE, sixteen bytes at a time.
import { floats } from './halves';

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

/** Takes `n` bytes apart at `to`: even ones first, odd ones after. Up to two lanes more are read. */
export function takeApart(from: usize, to: usize, n: usize): void {
  const high = to + ((n + 1) >> 1);
  let i: usize = 0;
  for (; i + 2 * LANE <= n; i += 2 * LANE) {
    const a = v128.load(from + i), b = v128.load(from + i + LANE);
    v128.store(to + (i >> 1), v128.shuffle<i8>(a, b, 0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30));
    v128.store(high + (i >> 1), v128.shuffle<i8>(a, b, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31));
  }
  for (; i < n; i++) store<u8>((i & 1 ? high : to) + (i >> 1), load<u8>(from + i));
}

/** Replaces each of `n` bytes but the first by its difference from the one before plus 128, in place, from the end. */
export function takeDifferences(at: usize, n: usize): void {
  if (n == 0) return;
  const first = load<u8>(at);
  let i = at + n;
  for (; i >= at + 1 + LANE; i -= LANE) {
    const v = i8x16.sub(v128.load(i - LANE), v128.load(i - LANE - 1));
    v128.store(i - LANE, v128.xor(v, TOP));
  }
  for (i--; i > at; i--) store<u8>(i, (load<u8>(i) - load<u8>(i - 1)) ^ 0x80);
  store<u8>(at, first);
}

/** Puts `n` bytes together again that stand apart. Up to two lanes more are read and written. */
export function putTogether(from: usize, to: usize, n: usize): void {
  const high = from + ((n + 1) >> 1);
  for (let i: usize = 0; i < n; i += 2 * LANE) {
    const l = v128.load(from + (i >> 1)), h = v128.load(high + (i >> 1));
    v128.store(to + i, v128.shuffle<i8>(l, h, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(to + i + LANE, v128.shuffle<i8>(l, h, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31));
  }
}

/** Makes `count` floats at `to` of halves whose low bytes are at `low` and high bytes at `high`; up to a lane more is read and written. */
export function floatsApart(low: usize, high: usize, to: usize, count: usize): void {
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
