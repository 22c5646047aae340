// Planes spread by shapes.

const LANE: usize = 16;
/** Bytes of a row of a shape: which row it is of, and where its ends lie. */
const SHAPE_ROW: usize = 20;

/**
 * Sums along each row of a plane, up to every edge between pixels, as the ends of shapes read them: `pad` floats of nothing before each row's, and of its whole
 * behind. Rows of `stride` bytes.
 */
export function addUp(from: usize, to: usize, width: u32, height: u32, pad: u32, stride: usize): void {
  for (let y: u32 = 0; y < height; y++, to += stride) {
    let at = to;
    for (let x: u32 = 0; x <= pad; x++, at += 4) store<f32>(at, 0);
    // Added in 64 bits, so that what lies left of a place leaves no trace in it.
    let sum: f64 = 0;
    for (let x: u32 = 0; x < width; x++, from += 4, at += 4) {
      sum += <f64>load<f32>(from);
      store<f32>(at, <f32>sum);
    }
    for (let x: u32 = 0; x < pad; x++, at += 4) store<f32>(at, <f32>sum);
  }
}

/**
 * What lies within a shape about each pixel from (x0, y0) up to (x1, y1), by sums along rows; beyond the plane there is nothing. A row of the shape, `rows` of
 * them, is: which row from the pixel's (i32), the first edge that it reads at its left and at its right (i32, from that of the pixel), and how far beyond those it
 * begins and ends (f32). `out` has rows of `width` floats; up to three pixels behind x1 are written too.
 */
export function gatherShape(
  sums: usize, stride: usize, pad: u32, shape: usize, rows: u32, out: usize, width: u32, height: i32,
  x0: u32, y0: i32, x1: u32, y1: i32,
): void {
  const last = shape + <usize>rows * SHAPE_ROW;
  for (let y = y0; y < y1; y++) {
    let at = out + ((<usize>y * <usize>width + <usize>x0) << 2);
    let row = sums + <usize>y * stride + (<usize>(pad + x0) << 2);
    for (let x = x0; x < x1; x += 4, at += LANE, row += LANE) {
      let sum = f32x4.splat(0);
      for (let s = shape; s < last; s += SHAPE_ROW) {
        const k = y + load<i32>(s);
        if (k < 0 || k >= height) continue;
        const own = row + <usize>load<i32>(s) * stride;
        const a = own + (<usize>load<i32>(s, 4) << 2);
        const b = own + (<usize>load<i32>(s, 8) << 2);
        const low = v128.load(a);
        const high = v128.load(b);
        const begins = f32x4.add(low, f32x4.mul(v128.load32_splat(s, 12), f32x4.sub(v128.load(a, 4), low)));
        const ends = f32x4.add(high, f32x4.mul(v128.load32_splat(s, 16), f32x4.sub(v128.load(b, 4), high)));
        sum = f32x4.add(sum, f32x4.sub(ends, begins));
      }
      v128.store(at, sum);
    }
  }
}

/** Every float of a plane over that of another. */
export function over(at: usize, by: usize, n: u32): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += LANE, by += LANE) v128.store(at, f32x4.div(v128.load(at), v128.load(by)));
}
