// The part of OpenEXR's DWA that loses: halves bent to what the eye sees, eight by eight to cosines, those rounded to halves of few
// bits, and runs of zeros counted. The corner of each block goes one way, the other 63 another.
import { toFrequencies, toValues } from './cosines';
import { floatOf, halfOf, toFloats, toHalves } from './halves';

const SIDE: i32 = 8;
const AREA: i32 = 64;
/** Words that stand for zeros: so many of them, or all that are left of a block. */
const ZEROS: u32 = 0xff00;

/** Places of a block in order of rising frequency, corner by corner: where the n-th lies, row by row. */
const ZIGZAG: StaticArray<u8> = [
  0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14, 21, 28,
  35, 42, 49, 56, 57, 50, 43, 36, 29, 22, 15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54, 47, 55,
  62, 63,
];

/** What a transform along one axis makes of a corner alone: √⅛. */
const FLAT_STEP: f32 = 0.35355338;

/** The floats of a block of each channel, row by row, and the halves of one. */
const tiles: usize = memory.data(3 * 64 * 4, 16);
const halves: usize = memory.data(64 * 2, 16);

// @ts-ignore: decorator
@inline
function tileAt(c: i32): usize {
  return tiles + ((<usize>c * AREA) << 2);
}

/**
 * The half of fewest set bits within an error of a number that half holds. Halves of one sign are ordered as their bits are: of
 * all between two, the one with the bits that both begin with, a one if the lower has more, and zeros has the fewest.
 */
export function fewestBits(value: f32, error: f64): u32 {
  const size = abs<f64>(value);
  if (size <= error) return 0;
  const sign: u32 = value < 0 ? 0x8000 : 0;
  let low = halfOf(<f32>(size - error));
  if (<f64>floatOf(low) < size - error) low++;
  let high = halfOf(<f32>(size + error));
  if (<f64>floatOf(high) > size + error) high--;
  // Where no half lies within the error, the nearest stands on either side.
  if (low >= high) return sign | halfOf(<f32>size);
  const bit = <u32>1 << (31 - clz(low ^ high));
  return sign | ((low & (2 * bit - 1)) == 0 ? low : high & ~(bit - 1));
}

/** Red, green, blue to brightness and two differences, in place [ITU-R BT.709]. */
function toDifferences(): void {
  for (let i: usize = 0; i < <usize>AREA * 4; i += 16) {
    const r = v128.load(tileAt(0) + i), g = v128.load(tileAt(1) + i), b = v128.load(tileAt(2) + i);
    v128.store(tileAt(0) + i, weighed(r, 0.2126, g, 0.7152, b, 0.0722));
    v128.store(tileAt(1) + i, weighed(r, -0.1146, g, -0.3854, b, 0.5));
    v128.store(tileAt(2) + i, weighed(r, 0.5, g, -0.4542, b, -0.0458));
  }
}

// @ts-ignore: decorator
@inline
function weighed(a: v128, p: f32, b: v128, q: f32, c: v128, r: f32): v128 {
  const two = f32x4.add(f32x4.mul(a, f32x4.splat(p)), f32x4.mul(b, f32x4.splat(q)));
  return f32x4.add(two, f32x4.mul(c, f32x4.splat(r)));
}

function fromDifferences(): void {
  for (let i: usize = 0; i < <usize>AREA * 4; i += 16) {
    const y = v128.load(tileAt(0) + i), cb = v128.load(tileAt(1) + i), cr = v128.load(tileAt(2) + i);
    v128.store(tileAt(0) + i, f32x4.add(y, f32x4.mul(cr, f32x4.splat(1.5747))));
    const less = f32x4.add(f32x4.mul(cb, f32x4.splat(0.1873)), f32x4.mul(cr, f32x4.splat(0.4682)));
    v128.store(tileAt(1) + i, f32x4.sub(y, less));
    v128.store(tileAt(2) + i, f32x4.add(y, f32x4.mul(cb, f32x4.splat(1.8556))));
  }
}

/** The floats of a block from a plane, mirrored beyond the edge so that no step is packed that is not in it. */
// @ts-ignore: decorator
@inline
function gather(plane: usize, x: i32, y: i32, width: i32, rows: i32, bent: usize, tile: usize): void {
  const isInside = x + SIDE <= width;
  for (let j = 0; j < SIDE; j++) {
    let row = y + j;
    if (row >= rows) row = max(0, 2 * (rows - 1) - row);
    const line = plane + (row * width << 1);
    for (let i = 0; i < SIDE; i++) {
      let column = x + i;
      if (!isInside && column >= width) column = max(0, 2 * (width - 1) - column);
      let h: u32 = load<u16>(line + (column << 1));
      if (bent) h = load<u16>(bent + (h << 1));
      store<u16>(halves + ((j * SIDE + i) << 1), h);
    }
  }
  toFloats(halves, tile, AREA);
}

/**
 * Packs the blocks of one channel, or of three of a colour whose planes lie one after another. Corners go to `dc`, of each channel one after
 * another, the others to `ac`; where those end. `bent`: what halves are put through first, 0 for nothing; `errors`: largest errors
 * by place, 64 of brightness and 64 of colour.
 */
export function packLight(
  planes: usize, channels: i32, width: i32, rows: i32, bent: usize, errors: usize, dc: usize, ac: usize,
): usize {
  const blocks = ((width + SIDE - 1) / SIDE) * ((rows + SIDE - 1) / SIDE);
  const bytes = <usize>width * rows * 2;
  let n = 0;
  for (let y = 0; y < rows; y += SIDE)
    for (let x = 0; x < width; x += SIDE, n++) {
      for (let c = 0; c < channels; c++) gather(planes + c * bytes, x, y, width, rows, bent, tileAt(c));
      if (channels == 3) toDifferences();
      for (let c = 0; c < channels; c++) {
        const tile = tileAt(c), own = errors + ((c == 0 ? 0 : AREA) << 3);
        toFrequencies(tile);
        let run: u32 = 0;
        for (let k = 0; k < AREA; k++) {
          const place: i32 = unchecked(ZIGZAG[k]);
          const word = fewestBits(load<f32>(tile + (place << 2)), load<f64>(own + (place << 3)));
          if (k == 0) {
            store<u16>(dc + ((c * blocks + n) << 1), word);
            continue;
          }
          if (word == 0) {
            run++;
            continue;
          }
          if (run > 0) {
            store<u16>(ac, run == 1 ? 0 : ZEROS | run);
            ac += 2;
            run = 0;
          }
          store<u16>(ac, word);
          ac += 2;
        }
        if (run > 0) {
          store<u16>(ac, run == 1 ? 0 : ZEROS);
          ac += 2;
        }
      }
    }
  return ac;
}

/** The planes again, from words of `ac` up to `end`; where those that were taken end, 0 if they are cut short. */
export function unpackLight(
  dc: usize, ac: usize, end: usize, linear: usize, channels: i32, width: i32, rows: i32, planes: usize,
): usize {
  const blocks = ((width + SIDE - 1) / SIDE) * ((rows + SIDE - 1) / SIDE);
  const bytes = <usize>width * rows * 2;
  let n = 0;
  for (let y = 0; y < rows; y += SIDE)
    for (let x = 0; x < width; x += SIDE, n++) {
      let flat = 0;
      for (let c = 0; c < channels; c++) {
        const tile = tileAt(c), corner = floatOf(load<u16>(dc + ((c * blocks + n) << 1)));
        if (ac < end && load<u16>(ac) == ZEROS) {
          ac += 2;
          flat++;
          fillFlat(tile, corner);
          continue;
        }
        fillAll(tile, 0);
        store<f32>(tile, corner);
        for (let k = 1; k < AREA; ) {
          if (ac >= end) return 0;
          const word: u32 = load<u16>(ac);
          ac += 2;
          if (word == ZEROS) break;
          if (word >> 8 == 0xff) {
            k += word & 255;
            continue;
          }
          store<f32>(tile + (<usize>unchecked(ZIGZAG[k]) << 2), floatOf(word));
          k++;
        }
        toValues(tile);
      }
      if (channels == 3) fromDifferences();
      const across = min(SIDE, width - x), down = min(SIDE, rows - y);
      const isFlat = flat == channels;
      for (let c = 0; c < channels; c++) {
        toHalves(tileAt(c), halves, isFlat ? SIDE : AREA);
        const to = planes + c * bytes + ((y * width + x) << 1);
        scatter(to, <usize>width << 1, across, down, linear, isFlat);
      }
    }
  return ac;
}

/** The values of a block that has its corner alone, by the same products as `toValues` has them. */
// @ts-ignore: decorator
@inline
function fillFlat(tile: usize, corner: f32): void {
  fillAll(tile, FLAT_STEP * (FLAT_STEP * corner) + 0);
}

// @ts-ignore: decorator
@inline
function fillAll(tile: usize, value: f32): void {
  const four = f32x4.splat(value);
  for (let i: usize = 0; i < <usize>AREA * 4; i += 64) {
    v128.store(tile + i, four);
    v128.store(tile + i, four, 16);
    v128.store(tile + i, four, 32);
    v128.store(tile + i, four, 48);
  }
}

/** The halves of a block to their lines, through `linear` where that is one; of a flat block there is one line. */
// @ts-ignore: decorator
@inline
function scatter(to: usize, line: usize, across: i32, down: i32, linear: usize, isFlat: bool): void {
  const count = isFlat ? SIDE : AREA;
  if (linear)
    for (let i = 0; i < count; i++) {
      const at = halves + (<usize>i << 1);
      store<u16>(at, load<u16>(linear + (<usize>load<u16>(at) << 1)));
    }
  for (let j = 0; j < down; j++, to += line) {
    const from = halves + (isFlat ? 0 : <usize>(j * SIDE) << 1);
    if (across == SIDE) v128.store(to, v128.load(from));
    else for (let i = 0; i < across; i++) store<u16>(to + (<usize>i << 1), load<u16>(from + (<usize>i << 1)));
  }
}
