// Planes blurred by boxes along their columns, four columns at a time.

const LANE: usize = 16;

/**
 * One box along the columns of a plane of rows `stride` bytes apart: of 2r + 1 rows that count `inner`, and one at each end that counts `outer`. Rows from
 * `first` up to `last` are made; sums lies where two floats of 64 bits for every two columns have room. `stride` is a multiple of 16.
 */
export function box(from: usize, to: usize, stride: usize, first: u32, last: u32, r: u32, inner: f64, outer: f64, sums: usize): void {
  const a = f64x2.splat(inner);
  const b = f64x2.splat(outer);
  const reach = <usize>r * stride;
  for (let x: usize = 0; x < stride; x += LANE) {
    let low = f64x2.splat(0);
    let high = f64x2.splat(0);
    let at = from + <usize>first * stride - reach + x;
    for (let k: u32 = 0; k < 2 * r + 1; k++, at += stride) {
      const v = v128.load(at);
      low = f64x2.add(low, f64x2.promote_low_f32x4(v));
      high = f64x2.add(high, f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3)));
    }
    v128.store(sums + 2 * x, low);
    v128.store(sums + 2 * x, high, LANE);
  }
  for (let y = first; y < last; y++) {
    const row = from + <usize>y * stride;
    const out = to + <usize>y * stride;
    for (let x: usize = 0; x < stride; x += LANE) {
      const before = v128.load(row - reach - stride + x);
      const after = v128.load(row + reach + stride + x);
      const leaves = v128.load(row - reach + x);
      const ends = f32x4.add(before, after);
      const low = v128.load(sums + 2 * x);
      const high = v128.load(sums + 2 * x, LANE);
      const outLow = f64x2.add(f64x2.mul(a, low), f64x2.mul(b, f64x2.promote_low_f32x4(ends)));
      const outHigh = f64x2.add(
        f64x2.mul(a, high),
        f64x2.mul(b, f64x2.promote_low_f32x4(v128.shuffle<f32>(ends, ends, 2, 3, 2, 3))),
      );
      v128.store(
        out + x,
        v128.shuffle<f32>(f32x4.demote_f64x2_zero(outLow), f32x4.demote_f64x2_zero(outHigh), 0, 1, 4, 5),
      );
      v128.store(
        sums + 2 * x,
        f64x2.add(low, f64x2.sub(f64x2.promote_low_f32x4(after), f64x2.promote_low_f32x4(leaves))),
      );
      const a2 = v128.shuffle<f32>(after, after, 2, 3, 2, 3);
      const l2 = v128.shuffle<f32>(leaves, leaves, 2, 3, 2, 3);
      v128.store(sums + 2 * x, f64x2.add(high, f64x2.sub(f64x2.promote_low_f32x4(a2), f64x2.promote_low_f32x4(l2))), LANE);
    }
  }
}

/** The same by weights, 2·reach + 1 floats of 64 bits. */
export function weighed(from: usize, to: usize, stride: usize, first: u32, last: u32, reach: u32, weights: usize): void {
  for (let y = first; y < last; y++) {
    const out = to + <usize>y * stride;
    const begin = from + <usize>(y - reach) * stride;
    for (let x: usize = 0; x < stride; x += LANE) {
      let low = f64x2.splat(0);
      let high = f64x2.splat(0);
      let at = begin + x;
      for (let k: usize = 0; k < <usize>(2 * reach + 1); k++, at += stride) {
        const w = v128.load64_splat(weights + (k << 3));
        const v = v128.load(at);
        low = f64x2.add(low, f64x2.mul(w, f64x2.promote_low_f32x4(v)));
        high = f64x2.add(high, f64x2.mul(w, f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3))));
      }
      v128.store(
        out + x,
        v128.shuffle<f32>(f32x4.demote_f64x2_zero(low), f32x4.demote_f64x2_zero(high), 0, 1, 4, 5),
      );
    }
  }
}

/** A plane of `width` by `height` floats with its rows as columns: rows are `stride` bytes apart there, `tall` here. */
export function turn(from: usize, stride: usize, width: u32, height: u32, to: usize, tall: usize): void {
  for (let y0: u32 = 0; y0 < height; y0 += 16)
    for (let x0: u32 = 0; x0 < width; x0 += 16) {
      const x1 = min(width, x0 + 16);
      const y1 = min(height, y0 + 16);
      for (let x = x0; x < x1; x++) {
        let out = to + <usize>x * tall + (<usize>y0 << 2);
        let at = from + <usize>y0 * stride + (<usize>x << 2);
        for (let y = y0; y < y1; y++, out += 4, at += stride) store<f32>(out, load<f32>(at));
      }
    }
}
