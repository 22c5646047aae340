// References of the BVH builder: a triangle and the box of it, or of a piece of it, that a leaf is to hold.
import { H_INDICES, H_POSITIONS, M_PASSED, SCENE_BASE } from './layout';
import { castsNoShadow, infoOf, secondaryRecord } from './rules';

/** A reference: box minimum, triangle, box maximum, unused. */
export const REF_BYTES: usize = 32;
export const REF_TRIANGLE: usize = 12;
export const REF_MAX: usize = 16;

// @ts-ignore: decorator
@inline
export function halfArea(lo: v128, hi: v128): f32 {
  const d = f32x4.sub(hi, lo);
  const x = f32x4.extract_lane(d, 0), y = f32x4.extract_lane(d, 1), z = f32x4.extract_lane(d, 2);
  return x * y + y * z + z * x;
}

export let infinityBox: v128 = f32x4.splat(f32.MAX_VALUE);

/** Widens the four bytes-of-box at `box` (min at 0, max at 16) by a point. */
function growPoint(box: usize, x: f32, y: f32, z: f32): void {
  const p = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, x), 1, y), 2, z);
  v128.store(box, f32x4.pmin(v128.load(box), p));
  v128.store(box + 16, f32x4.pmax(v128.load(box, 16), p));
}

export function coordinate(triangle: i32, corner: i32, axis: i32): f32 {
  const index = load<u32>(load<usize>(SCENE_BASE, H_INDICES) + usize(triangle) * 12 + (usize(corner) << 2));
  return load<f32>(load<usize>(SCENE_BASE, H_POSITIONS) + usize(index) * 12 + (usize(axis) << 2));
}

/** Whether shadow rays may pass a triangle. */
export function isPassed(triangle: i32): bool {
  const info = infoOf(triangle);
  return castsNoShadow(info, 0) || load<f32>(secondaryRecord(info, 0), M_PASSED) != 0;
}

/** Halves `ref` across its longest side into itself and `twin`, each the clipped triangle's box within the old box. */
export function halve(ref: usize, twin: usize, scratch: usize): void {
  const lo = v128.load(ref), hi = v128.load(ref, 16);
  const d = f32x4.sub(hi, lo);
  const x = f32x4.extract_lane(d, 0), y = f32x4.extract_lane(d, 1), z = f32x4.extract_lane(d, 2);
  const axis: i32 = x >= y && x >= z ? 0 : y >= z ? 1 : 2;
  const plane = (load<f32>(ref + (usize(axis) << 2)) + load<f32>(ref + (usize(axis) << 2), 16)) * f32(0.5);
  const triangle = load<i32>(ref, REF_TRIANGLE);
  const left = scratch, right = scratch + 32;
  v128.store(left, infinityBox); v128.store(left + 16, f32x4.neg(infinityBox));
  v128.store(right, infinityBox); v128.store(right + 16, f32x4.neg(infinityBox));
  for (let corner = 0; corner < 3; corner++) {
    const next = corner == 2 ? 0 : corner + 1;
    const ax = coordinate(triangle, corner, 0), ay = coordinate(triangle, corner, 1), az = coordinate(triangle, corner, 2);
    const bx = coordinate(triangle, next, 0), by = coordinate(triangle, next, 1), bz = coordinate(triangle, next, 2);
    const a: f32 = axis == 0 ? ax : axis == 1 ? ay : az;
    const b: f32 = axis == 0 ? bx : axis == 1 ? by : bz;
    if (a <= plane) growPoint(left, ax, ay, az);
    if (a >= plane) growPoint(right, ax, ay, az);
    if ((a < plane && b > plane) || (a > plane && b < plane)) {
      const t = (plane - a) / (b - a);
      let cx = ax + t * (bx - ax), cy = ay + t * (by - ay), cz = az + t * (bz - az);
      if (axis == 0) cx = plane; else if (axis == 1) cy = plane; else cz = plane;
      growPoint(left, cx, cy, cz);
      growPoint(right, cx, cy, cz);
    }
  }
  // Rounding of the cut is covered by a small widening; the old box still bounds both.
  const pad = f32x4.mul(f32x4.sub(hi, lo), f32x4.splat(1e-6));
  v128.store(twin, f32x4.pmax(f32x4.sub(v128.load(right), pad), lo));
  v128.store(twin + 16, f32x4.pmin(f32x4.add(v128.load(right, 16), pad), hi));
  v128.store(ref, f32x4.pmax(f32x4.sub(v128.load(left), pad), lo));
  v128.store(ref + 16, f32x4.pmin(f32x4.add(v128.load(left, 16), pad), hi));
  store<i32>(ref, triangle, REF_TRIANGLE);
  store<i32>(twin, triangle, REF_TRIANGLE);
}

/** Writes the box of `count` references to `box` (minimum at 0, maximum at 16). */
export function boxOf(refs: usize, count: i32, box: usize): void {
  let lo = infinityBox, hi = f32x4.neg(infinityBox);
  for (let i = 0; i < count; i++) {
    const ref = refs + usize(i) * REF_BYTES;
    lo = f32x4.pmin(lo, v128.load(ref));
    hi = f32x4.pmax(hi, v128.load(ref, REF_MAX));
  }
  v128.store(box, lo);
  v128.store(box + 16, hi);
}
