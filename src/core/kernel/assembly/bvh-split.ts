// The binned surface-area split of a range of references, triangles counted in blocks of four.
import { halfArea, infinityBox, REF_BYTES, REF_MAX } from './bvh-references';

const BINS: i32 = 32;
/** A bin: box minimum, count, box maximum, unused. */
const BIN_BYTES: usize = 32;

// @ts-ignore: decorator
@inline
function centroid(ref: usize, axis: usize): f32 {
  return load<f32>(ref + (axis << 2)) + load<f32>(ref + (axis << 2), 16);
}

// @ts-ignore: decorator
@inline
export function blocks(count: i32): f32 {
  return f32((count + 3) >> 2);
}

/** Cost of the last split in block tests × half-area, and the size of its first part. */
export let splitCost: f32 = 0;
export let splitLeft: i32 = 0;
/** Partitions `count` references at `refs` into two, with room for bins at `bins`; sets `splitCost` and `splitLeft`. */
export function split(refs: usize, count: i32, bins: usize): void {
  let lo = infinityBox, hi = f32x4.neg(infinityBox);
  for (let i = 0; i < count; i++) {
    const ref = refs + usize(i) * REF_BYTES;
    const c = f32x4.add(v128.load(ref), v128.load(ref, REF_MAX));
    lo = f32x4.pmin(lo, c);
    hi = f32x4.pmax(hi, c);
  }
  for (let i = 0; i < 3 * BINS; i++) {
    const bin = bins + usize(i) * BIN_BYTES;
    v128.store(bin, infinityBox);
    v128.store(bin + 16, f32x4.neg(infinityBox));
    store<i32>(bin, 0, 12);
  }
  const extent = f32x4.sub(hi, lo);
  const scale = f32x4.div(f32x4.splat(f32(BINS) * f32(0.99999)), f32x4.pmax(extent, f32x4.splat(1e-30)));
  for (let i = 0; i < count; i++) {
    const ref = refs + usize(i) * REF_BYTES;
    const rlo = v128.load(ref), rhi = v128.load(ref, REF_MAX);
    const slot = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(rlo, rhi), lo), scale));
    for (let axis = 0; axis < 3; axis++) {
      const k = axis == 0 ? i32x4.extract_lane(slot, 0) : axis == 1 ? i32x4.extract_lane(slot, 1) : i32x4.extract_lane(slot, 2);
      const bin = bins + usize(axis * BINS + min(max(k, 0), BINS - 1)) * BIN_BYTES;
      const n = load<i32>(bin, 12);
      v128.store(bin, f32x4.pmin(v128.load(bin), rlo));
      v128.store(bin + 16, f32x4.pmax(v128.load(bin, 16), rhi));
      store<i32>(bin, n + 1, 12);
    }
  }
  let bestCost = f32.MAX_VALUE, bestAxis = -1, bestBin = 0;
  const costs = bins + usize(3 * BINS) * BIN_BYTES;
  for (let axis = 0; axis < 3; axis++) {
    const size = axis == 0 ? f32x4.extract_lane(extent, 0) : axis == 1 ? f32x4.extract_lane(extent, 1) : f32x4.extract_lane(extent, 2);
    if (size <= 0) continue;
    let blo = infinityBox, bhi = f32x4.neg(infinityBox), n = 0;
    for (let k = BINS - 1; k > 0; k--) {
      const bin = bins + usize(axis * BINS + k) * BIN_BYTES;
      blo = f32x4.pmin(blo, v128.load(bin));
      bhi = f32x4.pmax(bhi, v128.load(bin, 16));
      n += load<i32>(bin, 12);
      store<f32>(costs + (usize(k) << 2), n ? halfArea(blo, bhi) * blocks(n) : f32.MAX_VALUE);
    }
    blo = infinityBox; bhi = f32x4.neg(infinityBox); n = 0;
    for (let k = 0; k < BINS - 1; k++) {
      const bin = bins + usize(axis * BINS + k) * BIN_BYTES;
      blo = f32x4.pmin(blo, v128.load(bin));
      bhi = f32x4.pmax(bhi, v128.load(bin, 16));
      n += load<i32>(bin, 12);
      if (!n) continue;
      const cost = halfArea(blo, bhi) * blocks(n) + load<f32>(costs + (usize(k + 1) << 2));
      if (cost < bestCost) { bestCost = cost; bestAxis = axis; bestBin = k; }
    }
  }
  splitCost = bestCost;
  if (bestAxis < 0) {
    splitLeft = count >> 1;
    return;
  }
  const axis = usize(bestAxis);
  const low = bestAxis == 0 ? f32x4.extract_lane(lo, 0) : bestAxis == 1 ? f32x4.extract_lane(lo, 1) : f32x4.extract_lane(lo, 2);
  const k = bestAxis == 0 ? f32x4.extract_lane(scale, 0) : bestAxis == 1 ? f32x4.extract_lane(scale, 1) : f32x4.extract_lane(scale, 2);
  let i = 0, j = count - 1;
  while (i <= j) {
    const a = refs + usize(i) * REF_BYTES;
    const slot = i32(min<f32>(max<f32>((centroid(a, axis) - low) * k, 0), f32(BINS - 1)));
    if (slot <= bestBin) { i++; continue; }
    const b = refs + usize(j) * REF_BYTES;
    const a0 = v128.load(a), a1 = v128.load(a, 16);
    v128.store(a, v128.load(b)); v128.store(a + 16, v128.load(b, 16));
    v128.store(b, a0); v128.store(b + 16, a1);
    j--;
  }
  splitLeft = i > 0 && i < count ? i : count >> 1;
}
