// Layers joined with what is below them: planes of what is below lie `stride` bytes apart, those of a layer anywhere; n floats of each, m a float for every pixel.

export const OVER: i32 = 0;
export const ADD: i32 = 1;
export const SUBTRACT: i32 = 2;
export const MULTIPLY: i32 = 3;
export const DIVIDE: i32 = 4;
export const SCREEN: i32 = 5;
export const SHADOW: i32 = 6;
export const OCCLUDE: i32 = 7;

const LANE: usize = 16;

// @ts-expect-error: a decorator of AssemblyScript
@inline
function joined(way: i32, b: v128, f: v128, a: v128, m: v128): v128 {
  const one = f32x4.splat(1);
  if (way === OVER) return f32x4.add(f32x4.mul(b, f32x4.sub(one, f32x4.mul(a, m))), f32x4.mul(f, m));
  if (way === ADD) return f32x4.add(b, f32x4.mul(m, f));
  if (way === SUBTRACT) return f32x4.sub(b, f32x4.mul(m, f));
  if (way === MULTIPLY) return f32x4.mul(b, f32x4.add(f32x4.sub(one, m), f32x4.mul(m, f)));
  if (way === DIVIDE) {
    const by = f32x4.add(f32x4.sub(one, m), f32x4.mul(m, f));
    return v128.bitselect(f32x4.div(b, by), b, f32x4.gt(by, f32x4.splat(1e-6)));
  }
  if (way === SCREEN) {
    const none = f32x4.splat(0);
    const isLow = v128.and(
      v128.and(f32x4.ge(b, none), f32x4.le(b, one)),
      v128.and(f32x4.ge(f, none), f32x4.le(f, one)),
    );
    const low = f32x4.sub(f, f32x4.mul(f, b));
    const high = f32x4.sub(f32x4.max(b, f), b);
    return f32x4.add(b, f32x4.mul(m, v128.bitselect(low, high, isLow)));
  }
  if (way === SHADOW) return f32x4.mul(b, f32x4.sub(one, f32x4.mul(m, f)));
  return f32x4.mul(b, f32x4.sub(one, f32x4.mul(m, f32x4.sub(one, f))));
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function joinedTo(way: i32, isEven: bool, below: usize, layer: usize, a: v128, m: v128, isThere: v128): void {
  const b = v128.load(below);
  const o = joined(way, b, v128.load(layer), a, m);
  v128.store(below, isEven ? o : v128.bitselect(o, b, isThere));
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function all(
  way: i32, isEven: bool, covers: bool, below: usize, stride: usize, r: usize, g: usize, b: usize, a: usize, m: usize, even: f32, n: u32,
): void {
  const end = below + (<usize>n << 2);
  const none = f32x4.splat(0);
  let share = f32x4.splat(even);
  for (; below < end; below += LANE, r += LANE, g += LANE, b += LANE, a += LANE) {
    if (!isEven) {
      share = v128.load(m);
      m += LANE;
    }
    // Where nothing of it takes effect, what is below stays as it is, whatever the layer holds there.
    const isThere = f32x4.ne(share, none);
    const alpha = covers || way === OVER ? v128.load(a) : none;
    joinedTo(way, isEven, below, r, alpha, share, isThere);
    joinedTo(way, isEven, below + stride, g, alpha, share, isThere);
    joinedTo(way, isEven, below + 2 * stride, b, alpha, share, isThere);
    if (way === OVER || (covers && (way === ADD || way === SCREEN))) {
      const own = v128.load(below + 3 * stride);
      const f = f32x4.mul(alpha, share);
      const o = way === OVER ? f32x4.sub(f32x4.add(own, f), f32x4.mul(own, f)) : f32x4.max(own, f);
      v128.store(below + 3 * stride, isEven ? o : v128.bitselect(o, own, isThere));
    }
  }
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function byWay(
  way: i32, isEven: bool, below: usize, stride: usize, r: usize, g: usize, b: usize, a: usize, m: usize, even: f32, n: u32,
): void {
  if (way === OVER) all(OVER, isEven, true, below, stride, r, g, b, a, m, even, n);
  else if (way === ADD && a) all(ADD, isEven, true, below, stride, r, g, b, a, m, even, n);
  else if (way === ADD) all(ADD, isEven, false, below, stride, r, g, b, a, m, even, n);
  else if (way === SUBTRACT) all(SUBTRACT, isEven, false, below, stride, r, g, b, a, m, even, n);
  else if (way === MULTIPLY) all(MULTIPLY, isEven, false, below, stride, r, g, b, a, m, even, n);
  else if (way === DIVIDE) all(DIVIDE, isEven, false, below, stride, r, g, b, a, m, even, n);
  else if (way === SCREEN && a) all(SCREEN, isEven, true, below, stride, r, g, b, a, m, even, n);
  else if (way === SCREEN) all(SCREEN, isEven, false, below, stride, r, g, b, a, m, even, n);
  else if (way === SHADOW) all(SHADOW, isEven, false, below, stride, r, g, b, a, m, even, n);
  else all(OCCLUDE, isEven, false, below, stride, r, g, b, a, m, even, n);
}

/**
 * Joins a layer, whose planes lie anywhere, with what is below it, there. With a of 0, one that is added or screened covers nothing that is not covered already.
 */
export function join(
  way: i32, below: usize, stride: usize, r: usize, g: usize, b: usize, a: usize, m: usize, n: u32,
): void {
  byWay(way, false, below, stride, r, g, b, a, m, 0, n);
}

/** The same where it takes the same effect everywhere, and some. */
export function joinEvenly(
  way: i32, below: usize, stride: usize, r: usize, g: usize, b: usize, a: usize, even: f32, n: u32,
): void {
  byWay(way, true, below, stride, r, g, b, a, 0, even, n);
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function blended(before: usize, after: usize, share: v128): void {
  const b = v128.load(before);
  const a = v128.load(after);
  const o = f32x4.add(b, f32x4.mul(share, f32x4.sub(a, b)));
  const isWhole = f32x4.eq(share, f32x4.splat(1));
  const isThere = f32x4.ne(share, f32x4.splat(0));
  v128.store(before, v128.bitselect(v128.bitselect(a, o, isWhole), b, isThere));
}

/** What an operation made of a picture, taken at m of its effect, in the place of what was before. */
export function blend(
  before: usize, stride: usize, r: usize, g: usize, b: usize, a: usize, m: usize, n: u32,
): void {
  const end = before + (<usize>n << 2);
  for (; before < end; before += LANE, r += LANE, g += LANE, b += LANE, a += LANE, m += LANE) {
    const share = v128.load(m);
    blended(before, r, share);
    blended(before + stride, g, share);
    blended(before + 2 * stride, b, share);
    blended(before + 3 * stride, a, share);
  }
}
