// Rows as OpenEXR's PXR24 deflates them: each number's difference from the one before, byte by byte apart, the highest first.

/** The bits of a float rounded to 24; what would become infinite by it is cut off instead. */
// @ts-ignore: decorator
@inline
function rounded(bits: u32): u32 {
  const sign = (bits >> 8) & 0x800000, size = bits & 0x7fffffff;
  if (size >= 0x7f800000) {
    if (size == 0x7f800000) return sign | 0x7f8000;
    // No number stays none.
    const kept = size >> 8;
    return sign | (kept == 0x7f8000 ? kept | 1 : kept);
  }
  const up = (size + (size & 0x80)) >> 8;
  return sign | (up >= 0x7f8000 ? size >> 8 : up);
}

/** One row of a channel: `kept` is 2 of halves, 3 of floats, 4 of whole numbers. */
export function takeRowApart(from: usize, width: u32, kept: u32, to: usize): void {
  let before: u32 = 0;
  for (let x: u32 = 0; x < width; x++, to++) {
    const value: u32 = kept == 2 ? load<u16>(from + (x << 1)) : load<u32>(from + (x << 2));
    const own = kept == 3 ? rounded(value) : value;
    const apart = own - before;
    before = own;
    let at = to;
    if (kept == 4) {
      store<u8>(at, apart >> 24);
      at += width;
    }
    if (kept >= 3) {
      store<u8>(at, apart >> 16);
      at += width;
    }
    store<u8>(at, apart >> 8);
    store<u8>(at + width, apart);
  }
}

/** The row again. */
export function putRowTogether(from: usize, width: u32, kept: u32, to: usize): void {
  let value: u32 = 0;
  for (let x: u32 = 0; x < width; x++, from++) {
    let at = from, apart: u32 = 0;
    if (kept == 4) {
      apart = <u32>load<u8>(at) << 24;
      at += width;
    }
    if (kept >= 3) {
      apart |= <u32>load<u8>(at) << 16;
      at += width;
    }
    value += apart | (<u32>load<u8>(at) << 8) | load<u8>(at + width);
    if (kept == 2) store<u16>(to + (x << 1), value);
    else store<u32>(to + (x << 2), kept == 3 ? value << 8 : value);
  }
}
