// Planes halved, and holes in them filled from what is about them.

const LANE: usize = 16;

/** Sums of two by two pixels, n to a row; the last column and row are of what there is. */
export function pull(from: usize, width: u32, height: u32, to: usize): void {
  const n = (width + 1) >> 1;
  const rows = (height + 1) >> 1;
  const whole = (width >> 3) << 2;
  const bytes = <usize>width << 2;
  for (let v: u32 = 0; v < rows; v++) {
    let a = from + <usize>(2 * v) * bytes;
    // The last of an odd number of rows stands alone.
    const isPair = v + v + 1 < height;
    let b = a + bytes;
    let at = to + ((<usize>v * <usize>n) << 2);
    let u: u32 = 0;
    for (; u < whole; u += 4, a += 2 * LANE, b += 2 * LANE, at += LANE) {
      let low = v128.load(a);
      let high = v128.load(a, 16);
      if (isPair) {
        low = f32x4.add(low, v128.load(b));
        high = f32x4.add(high, v128.load(b, 16));
      }
      v128.store(at, f32x4.add(v128.shuffle<f32>(low, high, 0, 2, 4, 6), v128.shuffle<f32>(low, high, 1, 3, 5, 7)));
    }
    for (; u < n; u++, a += 8, b += 8, at += 4) {
      const isLone = u + u + 1 >= width;
      let sum = load<f32>(a) + (isLone ? 0 : load<f32>(a, 4));
      if (isPair) sum += load<f32>(b) + (isLone ? 0 : load<f32>(b, 4));
      store<f32>(at, sum);
    }
  }
}

/** Where more than one is known, values are that many times less. */
export function evened(at: usize, known: usize, n: u32): void {
  const end = at + (<usize>n << 2);
  const one = f32x4.splat(1);
  for (; at < end; at += LANE, known += LANE)
    v128.store(at, f32x4.mul(v128.load(at), f32x4.div(one, f32x4.max(v128.load(known), one))));
}

/** No more than one. */
export function capped(at: usize, n: u32): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += LANE) v128.store(at, f32x4.min(v128.load(at), f32x4.splat(1)));
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function pushedOne(at: usize, known: usize, near: usize, far: usize, x: u32, w: u32): void {
  const k = load<f32>(known + (<usize>x << 2));
  if (k >= 1) return;
  const u = x >> 1;
  const v = x & 1 ? min(u + 1, w - 1) : u > 0 ? u - 1 : 0;
  const own = <usize>u << 2;
  const beside = <usize>v << 2;
  const c: f32 = 0.75 * (0.75 * load<f32>(near + own) + 0.25 * load<f32>(near + beside));
  const d: f32 = 0.25 * (0.75 * load<f32>(far + own) + 0.25 * load<f32>(far + beside));
  const place = at + (<usize>x << 2);
  store<f32>(place, load<f32>(place) + (1 - k) * (c + d));
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function between(coarse: usize): v128 {
  // Pixels u−1 to u+2: each of two is nearest to its own cell, and takes a quarter of that beside it.
  const c = v128.load(coarse, 0);
  const own = v128.shuffle<f32>(c, c, 1, 1, 2, 2);
  const beside = v128.shuffle<f32>(c, c, 0, 2, 1, 3);
  return f32x4.add(f32x4.mul(own, f32x4.splat(0.75)), f32x4.mul(beside, f32x4.splat(0.25)));
}

/** Puts what is missing of each pixel of a plane into it, from one of half its size, evenly between its pixels. `known`: how much of each is not missing. */
export function push(at: usize, known: usize, coarse: usize, width: u32, height: u32): void {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const bytes = <usize>width << 2;
  const one = f32x4.splat(1);
  for (let y: u32 = 0; y < height; y++, at += bytes, known += bytes) {
    // The nearer of two rows counts three quarters.
    const v = y >> 1;
    const w4 = <usize>w << 2;
    const near = coarse + <usize>v * w4;
    const beyond: u32 = y & 1 ? min(v + 1, h - 1) : v > 0 ? v - 1 : 0;
    const far = coarse + <usize>beyond * w4;
    let x: u32 = 0;
    for (; x < min(width, 2); x++) pushedOne(at, known, near, far, x, w);
    for (; x + 6 <= width; x += 4) {
      const place = <usize>x << 2;
      const k = v128.load(known + place);
      if (!v128.any_true(f32x4.lt(k, one))) continue;
      const cell = (<usize>(x >> 1) << 2) - 4;
      const c = f32x4.add(
        f32x4.mul(between(near + cell), f32x4.splat(0.75)),
        f32x4.mul(between(far + cell), f32x4.splat(0.25)),
      );
      const own = v128.load(at + place);
      const whole = f32x4.add(own, f32x4.mul(f32x4.sub(one, k), c));
      v128.store(at + place, v128.bitselect(whole, own, f32x4.lt(k, one)));
    }
    for (; x < width; x++) pushedOne(at, known, near, far, x, w);
  }
}
