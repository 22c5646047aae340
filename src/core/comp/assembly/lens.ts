// A picture cut into slices of like blur, and what was made of them laid over each other.

const LANE: usize = 16;
/** Bytes of what is told of a slice: sum of radii (f64), how many pixels, and between which columns and rows they lie (i32). */
const SLICE: usize = 32;
/** Below this many pixels of radius a thing is sharp; the same is in ../operations/lens.ts. */
const SHARP: f32 = 0.5;

/**
 * Radii of circles of confusion, below 0 for what is farther than what is in focus, of depths in metres; infinity is one. `endless`: that of what is
 * infinitely far. No radius is above `most`; tells the widest.
 */
export function confuse(depth: usize, to: usize, n: u32, metres: f32, endless: f32, most: f32): f32 {
  const end = to + (<usize>n << 2);
  const focus = f32x4.splat(metres);
  let widest = f32x4.splat(0);
  for (; to < end; to += LANE, depth += LANE) {
    const z = v128.load(depth);
    const share = f32x4.div(f32x4.abs(f32x4.sub(z, focus)), f32x4.max(z, f32x4.splat(1e-6)));
    const isEndless = v128.not(f32x4.lt(z, f32x4.splat(Infinity)));
    const r = f32x4.min(
      f32x4.mul(v128.bitselect(f32x4.splat(1), share, isEndless), f32x4.splat(endless)),
      f32x4.splat(most),
    );
    // Behind the last pixel anything may lie.
    if (to + LANE <= end) widest = f32x4.max(widest, r);
    else
      for (let i: usize = 0; to + (i << 2) < end; i++) {
        const one = i === 0 ? f32x4.extract_lane(r, 0) : i === 1 ? f32x4.extract_lane(r, 1) : f32x4.extract_lane(r, 2);
        widest = f32x4.max(widest, f32x4.splat(one));
      }
    v128.store(to, v128.bitselect(r, f32x4.neg(r), f32x4.lt(z, focus)));
  }
  return max(
    max(f32x4.extract_lane(widest, 0), f32x4.extract_lane(widest, 1)),
    max(f32x4.extract_lane(widest, 2), f32x4.extract_lane(widest, 3)),
  );
}

/**
 * The number of each pixel's slice (u8): `middle` for what is sharp, farther ones below it, nearer ones above, `step` pixels of radius apart. What is told of
 * each lies at `slices`, which is empty before: no pixel, and columns and rows from the last to the first.
 */
export function slice(signed: usize, owner: usize, slices: usize, width: u32, height: u32, step: f32, middle: i32): void {
  const n = width * height;
  const end = owner + <usize>n;
  const sharp = f32x4.splat(SHARP);
  const none = i32x4.splat(0);
  for (let at = owner, r = signed; at < end; at += 4, r += LANE) {
    const v = v128.load(r);
    const steps = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.div(f32x4.sub(f32x4.abs(v), sharp), f32x4.splat(step)), f32x4.splat(1)));
    const its = v128.bitselect(none, steps, f32x4.lt(f32x4.abs(v), sharp));
    const numbers = i32x4.add(i32x4.splat(middle), v128.bitselect(i32x4.neg(its), its, f32x4.lt(v, f32x4.splat(0))));
    const halves = i16x8.narrow_i32x4_u(numbers, numbers);
    v128.store32_lane(at, i8x16.narrow_i16x8_u(halves, halves), 0);
  }
  let at = owner;
  let r = signed;
  for (let y: u32 = 0; y < height; y++) {
    let x: u32 = 0;
    while (x < width) {
      // Neighbours that are of one slice are noted together.
      const first = x;
      const its = load<u8>(at);
      let sum: f64 = 0;
      for (; x < width && load<u8>(at) === its; x++, at++, r += 4) sum += <f64>abs(load<f32>(r));
      const own = slices + <usize>its * SLICE;
      store<f64>(own, load<f64>(own) + sum);
      store<u32>(own, load<u32>(own, 8) + x - first, 8);
      store<i32>(own, min(load<i32>(own, 12), <i32>first), 12);
      store<i32>(own, min(load<i32>(own, 16), <i32>y), 16);
      store<i32>(own, max(load<i32>(own, 20), <i32>x), 20);
      store<i32>(own, <i32>y + 1, 24);
    }
  }
}

/**
 * One row of a part of a picture: its light where it is of slice k, and 0 elsewhere; whether it is of it; and what nearer slices do not hide. `n` pixels; up to
 * three behind them are written too.
 */
export function take(
  red: usize, green: usize, blue: usize, alpha: usize, owner: usize, k: i32, n: u32,
  r: usize, g: usize, b: usize, a: usize, share: usize, known: usize,
): void {
  const one = f32x4.splat(1);
  const its = i32x4.splat(k);
  const end = owner + <usize>n;
  for (let i: usize = 0; owner < end; owner += 4, i += LANE) {
    const number = i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(owner)));
    const isOwn = i32x4.eq(number, its);
    v128.store(r + i, v128.and(v128.load(red + i), isOwn));
    v128.store(g + i, v128.and(v128.load(green + i), isOwn));
    v128.store(b + i, v128.and(v128.load(blue + i), isOwn));
    if (a !== share) v128.store(a + i, v128.and(v128.load(alpha + i), isOwn));
    v128.store(share + i, v128.and(one, isOwn));
    v128.store(known + i, v128.and(one, i32x4.le_s(number, its)));
  }
}

/**
 * One row laid over what lies farther: four planes and what they cover, `share` of each pixel. `covered`: how much of each pixel anything lies on. Nothing is
 * written behind its n pixels.
 */
export function lay(
  red: usize, green: usize, blue: usize, alpha: usize, covered: usize, n: u32,
  r: usize, g: usize, b: usize, a: usize, share: usize,
): void {
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  const lanes = i32x4(0, 1, 2, 3);
  for (let x: u32 = 0; x < n; x += 4) {
    const i = <usize>x << 2;
    const isIn = i32x4.lt_s(i32x4.add(lanes, i32x4.splat(x)), i32x4.splat(n));
    const s = v128.and(v128.load(share + i), isIn);
    const isThere = f32x4.ne(s, none);
    if (!v128.any_true(isThere)) continue;
    const isWhole = f32x4.ge(s, one);
    const rest = f32x4.sub(one, s);
    laidOver(red + i, r + i, rest, isThere, isWhole);
    laidOver(green + i, g + i, rest, isThere, isWhole);
    laidOver(blue + i, b + i, rest, isThere, isWhole);
    laidOver(alpha + i, a + i, rest, isThere, isWhole);
    const before = v128.load(covered + i);
    const all = f32x4.add(s, f32x4.mul(before, rest));
    v128.store(covered + i, v128.bitselect(v128.bitselect(one, all, isWhole), before, isThere));
  }
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function laidOver(at: usize, by: usize, rest: v128, isThere: v128, isWhole: v128): void {
  const before = v128.load(at);
  const own = v128.load(by);
  const both = f32x4.add(own, f32x4.mul(before, rest));
  v128.store(at, v128.bitselect(v128.bitselect(own, both, isWhole), before, isThere));
}

/** Row y of a plane of cells, 2^times pixels a side, evenly between them: n pixels. `row` has room for a row of cells. */
export function enlarge(plane: usize, w: u32, h: u32, times: u32, y: u32, n: u32, row: usize, to: usize): void {
  const side = <f32>(1 << times);
  const v = min(<f32>(h - 1), max(<f32>0, (<f32>y + 0.5) / side - 0.5));
  const v0 = <u32>v;
  const t = f32x4.splat(v - <f32>v0);
  const bytes = <usize>w << 2;
  const top = plane + <usize>v0 * bytes;
  const low = plane + <usize>min(h - 1, v0 + 1) * bytes;
  for (let i: usize = 0; i < bytes; i += LANE) {
    const a = v128.load(top + i);
    v128.store(row + i, f32x4.add(a, f32x4.mul(t, f32x4.sub(v128.load(low + i), a))));
  }
  for (let x: u32 = 0; x < n; x++, to += 4) {
    const u = min(<f32>(w - 1), max(<f32>0, (<f32>x + 0.5) / side - 0.5));
    const u0 = <u32>u;
    const a = load<f32>(row + (<usize>u0 << 2));
    const b = load<f32>(row + (<usize>min(w - 1, u0 + 1) << 2));
    store<f32>(to, a + (u - <f32>u0) * (b - a));
  }
}

/** Where only part of a pixel is covered, what lies there is all there is. */
export function settle(red: usize, green: usize, blue: usize, alpha: usize, covered: usize, n: u32): void {
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  const end = covered + (<usize>n << 2);
  for (let i: usize = 0; covered + i < end; i += LANE) {
    const s = v128.load(covered + i);
    const isPart = v128.and(f32x4.gt(s, none), f32x4.lt(s, one));
    if (!v128.any_true(isPart)) continue;
    const by = v128.bitselect(s, one, isPart);
    v128.store(red + i, f32x4.div(v128.load(red + i), by));
    v128.store(green + i, f32x4.div(v128.load(green + i), by));
    v128.store(blue + i, f32x4.div(v128.load(blue + i), by));
    v128.store(alpha + i, f32x4.div(v128.load(alpha + i), by));
  }
}
