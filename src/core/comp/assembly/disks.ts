// Planes spread by disks.

/**
 * Sums along each row of a plane up to every edge between pixels: width + 1 floats of 64 bits a row.
 */
export function addUp(from: usize, to: usize, width: u32, height: u32): void {
  for (let y: u32 = 0; y < height; y++) {
    let sum: f64 = 0;
    store<f64>(to, 0);
    to += 8;
    for (let x: u32 = 0; x < width; x++, from += 4, to += 8) {
      sum += <f64>load<f32>(from);
      store<f64>(to, sum);
    }
  }
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function between(row: usize, left: f64, right: f64, width: f64): f32 {
  const l = max<f64>(0, left);
  const r = min(width, right);
  // A row that has ended on either side.
  if (l >= r) return 0;
  const i = min(width - 1, floor(l));
  const j = min(width - 1, floor(r));
  const a = row + (<usize>i << 3);
  const b = row + (<usize>j << 3);
  const low = load<f64>(a);
  const high = load<f64>(b);
  return <f32>(high + (r - j) * (load<f64>(b, 8) - high) - low - (l - i) * (load<f64>(a, 8) - low));
}

/**
 * Adds one row of a shape, `k` rows away, to a plane: what sums along rows come to from `left` to `right` of each pixel's middle. Beyond the plane there is nothing.
 */
export function addRow(
  sums: usize,
  out: usize,
  width: u32,
  height: u32,
  k: i32,
  left: f64,
  right: f64,
): void {
  const stride = (<usize>width + 1) << 3;
  const first = max(0, -k);
  const last = min(<i32>height, <i32>height - k);
  const l: f64 = 0.5 + left;
  const r: f64 = 0.5 + right;
  const w = <f64>width;
  const lowFrom = floor(l);
  const highFrom = floor(r);
  const p = f64x2.splat(l - lowFrom);
  const q = f64x2.splat(r - highFrom);
  // Columns whose row lies within the plane, edges and all: those are gone through four at once.
  const inner = <i32>max<f64>(0, -lowFrom);
  const outer = <i32>min(w, w - highFrom - 1);
  for (let y = first; y < last; y++) {
    const row = sums + <usize>(y + k) * stride;
    const o = out + ((<usize>y * width) << 2);
    let x: i32 = 0;
    for (; x < min(inner, <i32>width); x++) {
      const at = o + (<usize>x << 2);
      store<f32>(at, load<f32>(at) + between(row, <f64>x + l, <f64>x + r, w));
    }
    for (; x + 4 <= outer; x += 4) {
      const a = row + (<usize>(x + <i32>lowFrom) << 3);
      const b = row + (<usize>(x + <i32>highFrom) << 3);
      const at = o + (<usize>x << 2);
      const low = v128.load(a);
      const high = v128.load(b);
      const one = f64x2.sub(
        f64x2.sub(f64x2.add(high, f64x2.mul(q, f64x2.sub(v128.load(b, 8), high))), low),
        f64x2.mul(p, f64x2.sub(v128.load(a, 8), low)),
      );
      const low2 = v128.load(a, 16);
      const high2 = v128.load(b, 16);
      const two = f64x2.sub(
        f64x2.sub(f64x2.add(high2, f64x2.mul(q, f64x2.sub(v128.load(b, 24), high2))), low2),
        f64x2.mul(p, f64x2.sub(v128.load(a, 24), low2)),
      );
      const four = v128.shuffle<f32>(f32x4.demote_f64x2_zero(one), f32x4.demote_f64x2_zero(two), 0, 1, 4, 5);
      v128.store(at, f32x4.add(v128.load(at), four));
    }
    for (; x < <i32>width; x++) {
      const at = o + (<usize>x << 2);
      store<f32>(at, load<f32>(at) + between(row, <f64>x + l, <f64>x + r, w));
    }
  }
}

/** Every float of a plane over that of another. */
export function over(at: usize, by: usize, n: u32): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += 4, by += 4) store<f32>(at, load<f32>(at) / load<f32>(by));
}
