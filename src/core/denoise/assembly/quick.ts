// A quick smoothing for pictures that are only looked at: rings of neighbours at growing steps [Dammertz et al. 2010].

/** How far luminances may be apart, in variances of both, and guides, before a neighbour counts little. */
const LIGHT: f32 = 0.25;
const GUIDE: f32 = 8;
const FLOOR: f32 = 1e-6;

/**
 * One pass over planes of `width` × `rows` with a rim of `rim` pixels: three colours and their variance from `from` to `to`,
 * by `count` guides from `guides` on, each `plane` bytes. Neighbours are `step` pixels off; `rim` is at least that.
 */
export function quick(
  step: i32, width: i32, rows: i32, rim: i32, from: usize, to: usize, guides: usize, count: i32, plane: usize,
): void {
  const one = f32x4.splat(1);
  for (let y = rim; y < rows - rim; y++)
    for (let x = rim; x < width - rim; x += 4) {
      const p = usize((y * width + x) << 2);
      const r = v128.load(from + p), g = v128.load(from + plane + p), b = v128.load(from + 2 * plane + p);
      const v = v128.load(from + 3 * plane + p);
      const light = luminance(r, g, b);
      let sr = r, sg = g, sb = b, sv = v, sw = one;
      for (let j = -1; j <= 1; j++)
        for (let i = -1; i <= 1; i++) {
          if (i == 0 && j == 0) continue;
          const q = p + usize(((j * width + i) * step) << 2);
          const qr = v128.load(from + q), qg = v128.load(from + plane + q), qb = v128.load(from + 2 * plane + q);
          const qv = v128.load(from + 3 * plane + q);
          const d = f32x4.sub(luminance(qr, qg, qb), light);
          const noise = f32x4.add(f32x4.splat(FLOOR), f32x4.add(v, qv));
          let apart = f32x4.div(f32x4.mul(f32x4.splat(LIGHT), f32x4.mul(d, d)), noise);
          let far = f32x4.splat(0);
          for (let k = 0; k < count; k++) {
            const at = guides + usize(k) * plane;
            const e = f32x4.sub(v128.load(at + p), v128.load(at + q));
            far = f32x4.add(far, f32x4.mul(e, e));
          }
          apart = f32x4.add(apart, f32x4.mul(f32x4.splat(GUIDE), far));
          const kernel: f32 = i != 0 && j != 0 ? 0.25 : 0.5;
          const near = f32x4.add(one, apart);
          const w = f32x4.div(f32x4.splat(kernel), f32x4.mul(near, near));
          sr = f32x4.add(sr, f32x4.mul(w, qr));
          sg = f32x4.add(sg, f32x4.mul(w, qg));
          sb = f32x4.add(sb, f32x4.mul(w, qb));
          sv = f32x4.add(sv, f32x4.mul(f32x4.mul(w, w), qv));
          sw = f32x4.add(sw, w);
        }
      v128.store(to + p, f32x4.div(sr, sw));
      v128.store(to + plane + p, f32x4.div(sg, sw));
      v128.store(to + 2 * plane + p, f32x4.div(sb, sw));
      v128.store(to + 3 * plane + p, f32x4.div(sv, f32x4.mul(sw, sw)));
    }
}

// @ts-ignore: decorator
@inline
function luminance(r: v128, g: v128, b: v128): v128 {
  const rg = f32x4.add(f32x4.mul(f32x4.splat(0.2126), r), f32x4.mul(f32x4.splat(0.7152), g));
  return f32x4.add(rg, f32x4.mul(f32x4.splat(0.0722), b));
}
