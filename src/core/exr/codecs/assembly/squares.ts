// Squares of four by four halves as OpenEXR's B44 packs them: one value in full and fifteen differences of six bits from neighbours.

/** A difference of zero as it is stored, and the largest that six bits hold. */
const BIAS: i32 = 0x20;
const MOST: i32 = 0x3f;
/** Third bytes from here on mark a square of one value: no shift is that large. */
const FLAT: i32 = 13 << 2;

/** Which value each of the fifteen differences is taken from, and of which: down the first column, then along the rows. */
const FROM: StaticArray<u8> = [0, 4, 8, 0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14];
const OF: StaticArray<u8> = [4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15];

const values: usize = memory.data(16 * 4, 16);
const scaled: usize = memory.data(16 * 4, 16);

/** Halves as whole numbers of the same order; numbers that are none become zero. */
// @ts-ignore: decorator
@inline
function ordered(h: i32): i32 {
  return (h & 0x7c00) == 0x7c00 ? 0x8000 : h & 0x8000 ? ~h & 0xffff : h | 0x8000;
}
/** x / 2^shift rounded, ties to even. */
// @ts-ignore: decorator
@inline
function shifted(x: i32, shift: i32): i32 {
  const doubled = x << 1;
  return (doubled + (1 << shift) - 1 + ((doubled >> (shift + 1)) & 1)) >> (shift + 1);
}

// @ts-ignore: decorator
@inline
function valueAt(k: i32): i32 {
  return load<i32>(values + (k << 2));
}
// @ts-ignore: decorator
@inline
function setValue(k: i32, value: i32): void {
  store<i32>(values + (k << 2), value);
}
// @ts-ignore: decorator
@inline
function scaledAt(k: i32): i32 {
  return load<i32>(scaled + (k << 2));
}
// @ts-ignore: decorator
@inline
function difference(k: i32): i32 {
  return scaledAt(unchecked(FROM[k])) - scaledAt(unchecked(OF[k])) + BIAS;
}

/** Packs the values at `to`; where it ends. `isExact`: whether the largest keeps all its bits. */
function packSquare(to: usize, isFlat: bool, isExact: bool): usize {
  let largest = valueAt(0);
  for (let i = 1; i < 16; i++) largest = max(largest, valueAt(i));
  let apart = 0;
  for (let k = 0; k < 15; k++) apart = max(apart, abs(valueAt(unchecked(FROM[k])) - valueAt(unchecked(OF[k]))));
  // Rounding takes at most one from a difference: no smaller shift fits.
  let shift = max(0, 31 - clz(max(1, apart) / (BIAS + 2)));
  let over = 0;
  do {
    for (let i = 0; i < 16; i++) store<i32>(scaled + (i << 2), shifted(largest - valueAt(i), shift));
    over = 0;
    for (let k = 0; k < 15; k++) over |= difference(k);
    shift++;
  } while (over & ~MOST);
  shift--;
  if (isFlat) {
    let isEven = true;
    for (let k = 0; k < 15; k++) isEven = isEven && difference(k) == BIAS;
    if (isEven) {
      store<u8>(to, valueAt(0) >> 8);
      store<u8>(to, valueAt(0), 1);
      store<u8>(to, FLAT | 0xfc, 2);
      return to + 3;
    }
  }
  const first = isExact ? largest - (scaledAt(0) << shift) : valueAt(0);
  store<u8>(to, first >> 8);
  store<u8>(to, first, 1);
  // Six bits of the shift and ten differences are 66: four to three bytes each.
  to += 2;
  let held = shift;
  for (let k = 0; k < 15; k++) {
    held = (held << 6) | difference(k);
    if ((k & 3) != 2) continue;
    store<u8>(to, held >> 16);
    store<u8>(to, held >> 8, 1);
    store<u8>(to, held, 2);
    to += 3;
    held = 0;
  }
  return to;
}

/** Packs a plane of halves at `to`; where it ends. `curve`: what halves are put through first, 0 for nothing. */
export function packSquares(plane: usize, width: i32, rows: i32, curve: usize, isFlat: bool, to: usize): usize {
  for (let y = 0; y < rows; y += 4)
    for (let x = 0; x < width; x += 4) {
      // Beyond the edge its values come again.
      for (let i = 0; i < 16; i++) {
        const at = min(y + (i >> 2), rows - 1) * width + min(x + (i & 3), width - 1);
        let h: i32 = load<u16>(plane + (at << 1));
        if (curve) h = load<u16>(curve + (h << 1));
        setValue(i, ordered(h));
      }
      to = packSquare(to, isFlat, !curve);
    }
  return to;
}

const LOW = i32x4.splat(0xffff);

/** The numbers that four differences of six bits stand for, the last of which ends at bit `low`. */
// @ts-ignore: decorator
@inline
function steps(held: u64, low: u64, shift: i32): v128 {
  const own = <u32>(held >> low);
  let four = i32x4.splat(own & 63);
  four = i32x4.replace_lane(four, 2, (own >> 6) & 63);
  four = i32x4.replace_lane(four, 1, (own >> 12) & 63);
  four = i32x4.replace_lane(four, 0, (own >> 18) & 63);
  return i32x4.shl(i32x4.sub(four, i32x4.splat(BIAS)), shift);
}

// @ts-ignore: decorator
@inline
function lower(a: v128, b: v128): v128 {
  return v128.shuffle<i32>(a, b, 0, 4, 1, 5);
}
// @ts-ignore: decorator
@inline
function upper(a: v128, b: v128): v128 {
  return v128.shuffle<i32>(a, b, 2, 6, 3, 7);
}
/** The rows of eight bytes that begin and end two pairs of columns, as words. */
// @ts-ignore: decorator
@inline
function twoRows(a: v128, b: v128): v128 {
  const above = v128.shuffle<i64>(a, b, 0, 2), below = v128.shuffle<i64>(a, b, 1, 3);
  return i16x8.narrow_i32x4_u(v128.and(above, LOW), v128.and(below, LOW));
}
/** The other way, eight at a time. */
// @ts-ignore: decorator
@inline
function allUnordered(t: v128): v128 {
  return v128.xor(t, v128.or(i16x8.splat(-0x8000), v128.not(i16x8.shr_s(t, 15))));
}

const square: usize = memory.data(16 * 2, 16);

/** The plane again from bytes up to `end`; where its squares end, 0 if they are cut short. Up to a square more is read. */
export function unpackSquares(from: usize, end: usize, width: i32, rows: i32, curve: usize, plane: usize): usize {
  const line = <usize>width << 1;
  for (let y = 0; y < rows; y += 4)
    for (let x = 0; x < width; x += 4) {
      if (from + 3 > end) return 0;
      const first = ((<i32>load<u8>(from)) << 8) | load<u8>(from, 1), third: i32 = load<u8>(from, 2);
      let above = allUnordered(i16x8.splat(<i16>first)), below = above;
      if (third >= FLAT) from += 3;
      else {
        if (from + 14 > end) return 0;
        const shift = third >> 2;
        // Six bits of the shift and seven differences, and the other eight.
        const held = bswap<u64>(load<u64>(from, 2)), rest = bswap<u64>(load<u64>(from, 8));
        const down = steps(held, 34, shift);
        let sum = first;
        let c0 = i32x4.splat(sum);
        sum += i32x4.extract_lane(down, 0);
        c0 = i32x4.replace_lane(c0, 1, sum);
        sum += i32x4.extract_lane(down, 1);
        c0 = i32x4.replace_lane(c0, 2, sum);
        sum += i32x4.extract_lane(down, 2);
        c0 = i32x4.replace_lane(c0, 3, sum);
        const c1 = i32x4.add(c0, steps(held, 16, shift));
        const c2 = i32x4.add(c1, steps(rest, 40, shift));
        const c3 = i32x4.add(c2, steps(rest, 16, shift));
        above = allUnordered(twoRows(lower(c0, c1), lower(c2, c3)));
        below = allUnordered(twoRows(upper(c0, c1), upper(c2, c3)));
        from += 14;
      }
      let to = plane + ((y * width + x) << 1);
      if (!curve && x + 4 <= width && y + 4 <= rows) {
        v128.store_lane<u64>(to, above, 0);
        v128.store_lane<u64>(to + line, above, 1);
        v128.store_lane<u64>(to + 2 * line, below, 0);
        v128.store_lane<u64>(to + 3 * line, below, 1);
        continue;
      }
      v128.store(square, above);
      v128.store(square, below, 16);
      const across = min(4, width - x), downTo = min(4, rows - y);
      for (let j = 0; j < downTo; j++, to += line)
        for (let i = 0; i < across; i++) {
          let h: i32 = load<u16>(square + ((j * 4 + i) << 1));
          if (curve) h = load<u16>(curve + (h << 1));
          store<u16>(to + (i << 1), h);
        }
    }
  return from;
}
