// Cosine transforms of eight by eight floats, as OpenEXR's DWA has them: orthonormal, so that a flat block of v gives 8 v.

const ROW: usize = 32;

// c(k)·cos(kπ/16) of the transform's definition, c(k) = ½ from k = 1 on; c(0) = √⅛ is the fourth.
const C1 = f32x4.splat(0.49039264);
const C2 = f32x4.splat(0.46193977);
const C3 = f32x4.splat(0.4157348);
const C4 = f32x4.splat(0.35355338);
const C5 = f32x4.splat(0.2777851);
const C6 = f32x4.splat(0.19134171);
const C7 = f32x4.splat(0.09754516);

// @ts-ignore: decorator
@inline
function times(a: v128, b: v128): v128 {
  return f32x4.mul(a, b);
}

/** Four columns from values to frequencies: even ones of the sums of both ends, odd of the differences. */
// @ts-ignore: decorator
@inline
function forth(at: usize): void {
  const a0 = v128.load(at), a1 = v128.load(at, ROW), a2 = v128.load(at, 2 * ROW), a3 = v128.load(at, 3 * ROW);
  const a4 = v128.load(at, 4 * ROW), a5 = v128.load(at, 5 * ROW), a6 = v128.load(at, 6 * ROW), a7 = v128.load(at, 7 * ROW);
  const e0 = f32x4.add(a0, a7), e1 = f32x4.add(a1, a6), e2 = f32x4.add(a2, a5), e3 = f32x4.add(a3, a4);
  const o0 = f32x4.sub(a0, a7), o1 = f32x4.sub(a1, a6), o2 = f32x4.sub(a2, a5), o3 = f32x4.sub(a3, a4);
  const outer = f32x4.add(e0, e3), inner = f32x4.add(e1, e2), d0 = f32x4.sub(e0, e3), d1 = f32x4.sub(e1, e2);
  v128.store(at, times(C4, f32x4.add(outer, inner)));
  v128.store(at, times(C4, f32x4.sub(outer, inner)), 4 * ROW);
  v128.store(at, f32x4.add(times(C2, d0), times(C6, d1)), 2 * ROW);
  v128.store(at, f32x4.sub(times(C6, d0), times(C2, d1)), 6 * ROW);
  v128.store(at, f32x4.add(f32x4.add(times(C1, o0), times(C3, o1)), f32x4.add(times(C5, o2), times(C7, o3))), ROW);
  v128.store(at, f32x4.sub(f32x4.sub(times(C3, o0), times(C7, o1)), f32x4.add(times(C1, o2), times(C5, o3))), 3 * ROW);
  v128.store(at, f32x4.add(f32x4.sub(times(C5, o0), times(C1, o1)), f32x4.add(times(C7, o2), times(C3, o3))), 5 * ROW);
  v128.store(at, f32x4.add(f32x4.sub(times(C7, o0), times(C5, o1)), f32x4.sub(times(C3, o2), times(C1, o3))), 7 * ROW);
}

/** The other way. */
// @ts-ignore: decorator
@inline
function back(at: usize): void {
  const f1 = v128.load(at, ROW), f3 = v128.load(at, 3 * ROW), f5 = v128.load(at, 5 * ROW), f7 = v128.load(at, 7 * ROW);
  const f0 = v128.load(at), f2 = v128.load(at, 2 * ROW), f4 = v128.load(at, 4 * ROW), f6 = v128.load(at, 6 * ROW);
  const sum = times(C4, f32x4.add(f0, f4)), difference = times(C4, f32x4.sub(f0, f4));
  const low = f32x4.add(times(C2, f2), times(C6, f6)), high = f32x4.sub(times(C6, f2), times(C2, f6));
  const e0 = f32x4.add(sum, low), e3 = f32x4.sub(sum, low);
  const e1 = f32x4.add(difference, high), e2 = f32x4.sub(difference, high);
  const o0 = f32x4.add(f32x4.add(times(C1, f1), times(C3, f3)), f32x4.add(times(C5, f5), times(C7, f7)));
  const o1 = f32x4.sub(f32x4.sub(times(C3, f1), times(C7, f3)), f32x4.add(times(C1, f5), times(C5, f7)));
  const o2 = f32x4.add(f32x4.sub(times(C5, f1), times(C1, f3)), f32x4.add(times(C7, f5), times(C3, f7)));
  const o3 = f32x4.add(f32x4.sub(times(C7, f1), times(C5, f3)), f32x4.sub(times(C3, f5), times(C1, f7)));
  v128.store(at, f32x4.add(e0, o0));
  v128.store(at, f32x4.add(e1, o1), ROW);
  v128.store(at, f32x4.add(e2, o2), 2 * ROW);
  v128.store(at, f32x4.add(e3, o3), 3 * ROW);
  v128.store(at, f32x4.sub(e3, o3), 4 * ROW);
  v128.store(at, f32x4.sub(e2, o2), 5 * ROW);
  v128.store(at, f32x4.sub(e1, o1), 6 * ROW);
  v128.store(at, f32x4.sub(e0, o0), 7 * ROW);
}

// @ts-ignore: decorator
@inline
function low(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 4, 1, 5);
}
// @ts-ignore: decorator
@inline
function high(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 2, 6, 3, 7);
}

/** Swaps the quarters at `a` and `b`, rows and columns of each exchanged. */
// @ts-ignore: decorator
@inline
function exchange(a: usize, b: usize): void {
  const p0 = v128.load(a), p1 = v128.load(a, ROW), p2 = v128.load(a, 2 * ROW), p3 = v128.load(a, 3 * ROW);
  const q0 = v128.load(b), q1 = v128.load(b, ROW), q2 = v128.load(b, 2 * ROW), q3 = v128.load(b, 3 * ROW);
  const s0 = low(p0, p2), s1 = low(p1, p3), s2 = high(p0, p2), s3 = high(p1, p3);
  v128.store(b, low(s0, s1));
  v128.store(b, high(s0, s1), ROW);
  v128.store(b, low(s2, s3), 2 * ROW);
  v128.store(b, high(s2, s3), 3 * ROW);
  const t0 = low(q0, q2), t1 = low(q1, q3), t2 = high(q0, q2), t3 = high(q1, q3);
  v128.store(a, low(t0, t1));
  v128.store(a, high(t0, t1), ROW);
  v128.store(a, low(t2, t3), 2 * ROW);
  v128.store(a, high(t2, t3), 3 * ROW);
}

// @ts-ignore: decorator
@inline
function exchangeAll(block: usize): void {
  exchange(block, block);
  exchange(block + 16, block + 4 * ROW);
  exchange(block + 4 * ROW + 16, block + 4 * ROW + 16);
}

/** The values of a block to their frequencies, in place: rows, then columns. */
export function toFrequencies(block: usize): void {
  exchangeAll(block);
  forth(block);
  forth(block + 16);
  exchangeAll(block);
  forth(block);
  forth(block + 16);
}

/** Frequencies back to values, in place. */
export function toValues(block: usize): void {
  exchangeAll(block);
  back(block);
  back(block + 16);
  exchangeAll(block);
  back(block);
  back(block + 16);
}
