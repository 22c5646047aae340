// Layers joined with what is below them: four planes each, `stride` bytes apart, n floats of each; m a float for every pixel.

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
function all(
  way: i32,
  isEven: bool,
  below: usize,
  layer: usize,
  stride: usize,
  m: usize,
  even: f32,
  n: u32,
): void {
  const end = below + (<usize>n << 2);
  const none = f32x4.splat(0);
  let share = f32x4.splat(even);
  for (; below < end; below += LANE, layer += LANE) {
    if (!isEven) {
      share = v128.load(m);
      m += LANE;
    }
    // Where nothing of it takes effect, what is below stays as it is, whatever the layer holds there.
    const isThere = f32x4.ne(share, none);
    const alpha = v128.load(layer + 3 * stride);
    for (let c: usize = 0; c < 3; c++) {
      const b = v128.load(below + c * stride);
      const o = joined(way, b, v128.load(layer + c * stride), alpha, share);
      v128.store(below + c * stride, isEven ? o : v128.bitselect(o, b, isThere));
    }
    if (way === OVER || way === ADD || way === SCREEN) {
      const b = v128.load(below + 3 * stride);
      const f = f32x4.mul(alpha, share);
      const o = way === OVER ? f32x4.sub(f32x4.add(b, f), f32x4.mul(b, f)) : f32x4.max(b, f);
      v128.store(below + 3 * stride, isEven ? o : v128.bitselect(o, b, isThere));
    }
  }
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function byWay(
  way: i32,
  isEven: bool,
  below: usize,
  layer: usize,
  stride: usize,
  m: usize,
  even: f32,
  n: u32,
): void {
  if (way === OVER) all(OVER, isEven, below, layer, stride, m, even, n);
  else if (way === ADD) all(ADD, isEven, below, layer, stride, m, even, n);
  else if (way === SUBTRACT) all(SUBTRACT, isEven, below, layer, stride, m, even, n);
  else if (way === MULTIPLY) all(MULTIPLY, isEven, below, layer, stride, m, even, n);
  else if (way === DIVIDE) all(DIVIDE, isEven, below, layer, stride, m, even, n);
  else if (way === SCREEN) all(SCREEN, isEven, below, layer, stride, m, even, n);
  else if (way === SHADOW) all(SHADOW, isEven, below, layer, stride, m, even, n);
  else all(OCCLUDE, isEven, below, layer, stride, m, even, n);
}

/** Joins a layer with what is below it, there. */
export function join(way: i32, below: usize, layer: usize, stride: usize, m: usize, n: u32): void {
  byWay(way, false, below, layer, stride, m, 0, n);
}

/** The same where it takes the same effect everywhere, and some. */
export function joinEvenly(way: i32, below: usize, layer: usize, stride: usize, even: f32, n: u32): void {
  byWay(way, true, below, layer, stride, 0, even, n);
}

/** What an operation made of a picture, taken at m of its effect, in the place of what was before. */
export function blend(before: usize, after: usize, stride: usize, m: usize, n: u32): void {
  const end = before + (<usize>n << 2);
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (; before < end; before += LANE, after += LANE, m += LANE) {
    const share = v128.load(m);
    const isThere = f32x4.ne(share, none);
    const isWhole = f32x4.eq(share, one);
    for (let c: usize = 0; c < 4; c++) {
      const b = v128.load(before + c * stride);
      const a = v128.load(after + c * stride);
      const o = f32x4.add(b, f32x4.mul(share, f32x4.sub(a, b)));
      v128.store(before + c * stride, v128.bitselect(v128.bitselect(a, o, isWhole), b, isThere));
    }
  }
}
