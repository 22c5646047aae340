// Builds the four-wide BVH from the packed triangles: references of large boxes are halved first
// (tight clips of the triangle), then binned SAH with triangles counted in blocks of four.
// One thread, fixed order: the tree never depends on how many threads render with it.
import {
  BLOCK_BYTES, BLOCK_E1, BLOCK_E2, BLOCK_ID, H_BLOCK_COUNT, H_BOUNDS_MAX_X, H_BOUNDS_MIN_X, H_BVH_END, H_BVH_ROOT,
  H_INDICES, H_MATERIALS, H_NODE_COUNT, H_POSITIONS, H_TRIANGLE_COUNT, H_TRIANGLE_INFO, MATERIAL_BYTES, MIRROR_ALPHA,
  M_ROUGHNESS, M_THIN_WALLED, M_TRANSMISSION, NODE_BYTES, NODE_CHILD, PANE_BIT, SCENE_BASE, TRIANGLE_MATERIAL_SHIFT,
} from './layout';

/** A reference: box minimum, triangle, box maximum, unused. */
const REF_BYTES: usize = 32;
const REF_TRIANGLE: usize = 12;
const REF_MAX: usize = 16;
const BINS: i32 = 16;
/** A bin: box minimum, count, box maximum, unused. */
const BIN_BYTES: usize = 32;
const LEAF_TRIANGLES: i32 = 4;

// @ts-ignore: decorator
@inline
function halfArea(lo: v128, hi: v128): f32 {
  const d = f32x4.sub(hi, lo);
  const x = f32x4.extract_lane(d, 0), y = f32x4.extract_lane(d, 1), z = f32x4.extract_lane(d, 2);
  return x * y + y * z + z * x;
}

// @ts-ignore: decorator
@inline
function loadMin(ref: usize): v128 {
  return v128.load(ref);
}

let infinityBox: v128 = f32x4.splat(f32.MAX_VALUE);

/** Widens the four bytes-of-box at `box` (min at 0, max at 16) by a point. */
function growPoint(box: usize, x: f32, y: f32, z: f32): void {
  const p = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, x), 1, y), 2, z);
  v128.store(box, f32x4.pmin(v128.load(box), p));
  v128.store(box + 16, f32x4.pmax(v128.load(box, 16), p));
}

function coordinate(triangle: i32, corner: i32, axis: i32): f32 {
  const index = load<u32>(load<usize>(SCENE_BASE, H_INDICES) + usize(triangle) * 12 + (usize(corner) << 2));
  return load<f32>(load<usize>(SCENE_BASE, H_POSITIONS) + usize(index) * 12 + (usize(axis) << 2));
}

function isPane(triangle: i32): bool {
  const info = load<u32>(load<usize>(SCENE_BASE, H_TRIANGLE_INFO) + (usize(triangle) << 2));
  const m = load<usize>(SCENE_BASE, H_MATERIALS) + usize(info >> TRIANGLE_MATERIAL_SHIFT) * MATERIAL_BYTES;
  const roughness = load<f32>(m, M_ROUGHNESS);
  return load<f32>(m, M_THIN_WALLED) > 0 && load<f32>(m, M_TRANSMISSION) > 0 && roughness * roughness < MIRROR_ALPHA;
}

/** Halves `ref` across its longest side into itself and `twin`, each the clipped triangle's box within the old box. */
function halve(ref: usize, twin: usize, scratch: usize): void {
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

// @ts-ignore: decorator
@inline
function centroid(ref: usize, axis: usize): f32 {
  return load<f32>(ref + (axis << 2)) + load<f32>(ref + (axis << 2), 16);
}

// @ts-ignore: decorator
@inline
function blocks(count: i32): f32 {
  return f32((count + 3) >> 2);
}

let splitLeft: i32 = 0;
/** Partitions `count` references at `refs` into two; sets `splitLeft`, the size of the first part. */
function split(refs: usize, count: i32, bins: usize): void {
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

function writeBlock(block: usize, refs: usize, count: i32): void {
  for (let i = 0; i < 4; i++) {
    const at = block + (usize(i) << 2);
    if (i >= count) {
      for (let f: usize = 0; f < 144; f += 16) store<f32>(at + f, 0);
      store<i32>(at, -1, BLOCK_ID);
      continue;
    }
    const triangle = load<i32>(refs + usize(i) * REF_BYTES, REF_TRIANGLE);
    for (let axis = 0; axis < 3; axis++) {
      const a = coordinate(triangle, 0, axis);
      const row = at + (usize(axis) << 4);
      store<f32>(row, a);
      store<f32>(row, coordinate(triangle, 1, axis) - a, BLOCK_E1);
      store<f32>(row, coordinate(triangle, 2, axis) - a, BLOCK_E2);
    }
    store<i32>(at, isPane(triangle) ? triangle | PANE_BIT : triangle, BLOCK_ID);
  }
}

/** State of the build in progress; the host calls the steps below in order. */
let refs: usize = 0;
let bins: usize = 0;
let tasks: usize = 0;
let end: usize = 0;
let count: i32 = 0;
let depth: i32 = 0;
let nodes: i32 = 0;
let leaves: i32 = 0;
let halved: i32 = 0;
let roundEnd: i32 = 0;
let sceneLo: v128 = f32x4.splat(0);
let sceneHi: v128 = f32x4.splat(0);

/**
 * Begins a tree at `at` (16-byte aligned) with temporary room at `temp`: 32 bytes a reference (at most
 * 1.5 a triangle) and 64 KiB.
 */
export function beginTree(at: usize, temp: usize): void {
  bins = temp;
  tasks = temp + 4096;
  refs = temp + 65536;
  end = at;
  count = 0;
  halved = 0;
  roundEnd = 0;
  depth = 0;
  nodes = 0;
  leaves = 0;
  sceneLo = infinityBox;
  sceneHi = f32x4.neg(infinityBox);
}

/** Makes references with their whole boxes for triangles [from, to). */
export function referTriangles(from: i32, to: i32): void {
  const positions = load<usize>(SCENE_BASE, H_POSITIONS), indices = load<usize>(SCENE_BASE, H_INDICES);
  let lo = sceneLo, hi = sceneHi;
  for (let t = from; t < to; t++) {
    const tri = indices + usize(t) * 12;
    // Four floats are read of three; the fourth lane is overwritten below.
    const a = v128.load(positions + usize(load<u32>(tri)) * 12);
    const b = v128.load(positions + usize(load<u32>(tri, 4)) * 12);
    const c = v128.load(positions + usize(load<u32>(tri, 8)) * 12);
    const rlo = f32x4.pmin(a, f32x4.pmin(b, c)), rhi = f32x4.pmax(a, f32x4.pmax(b, c));
    const ref = refs + usize(t) * REF_BYTES;
    v128.store(ref, rlo);
    v128.store(ref + 16, rhi);
    store<i32>(ref, t, REF_TRIANGLE);
    lo = f32x4.pmin(lo, rlo);
    hi = f32x4.pmax(hi, rhi);
  }
  sceneLo = lo;
  sceneHi = hi;
  count = to;
}

/**
 * Halves the large references among the next `most`, each once a round, so that room for more references is
 * shared by all that are large; false when a round has found none, or no room is left.
 */
export function halveReferences(most: i32): bool {
  const triangles = load<i32>(SCENE_BASE, H_TRIANGLE_COUNT);
  const limit = triangles + (triangles >> 1);
  const threshold = f32(20) * halfArea(sceneLo, sceneHi) / f32(triangles);
  for (let step = 0; step < most; step++) {
    if (count >= limit) return false;
    if (halved >= roundEnd) {
      if (roundEnd == count) return false;
      halved = 0;
      roundEnd = count;
    }
    const ref = refs + usize(halved++) * REF_BYTES;
    const d = f32x4.sub(v128.load(ref, 16), v128.load(ref));
    const x = f32x4.extract_lane(d, 0), y = f32x4.extract_lane(d, 1), z = f32x4.extract_lane(d, 2);
    const largest = max(x, max(y, z)), smallest = min(x, min(y, z));
    if (x * y + y * z + z * x <= threshold || smallest < largest * f32(1e-3)) continue;
    if (isPane(load<i32>(ref, REF_TRIANGLE))) continue;
    halve(ref, refs + usize(count) * REF_BYTES, bins);
    count++;
  }
  return true;
}

/** Readies the first task: all references, the child reference to be written to the scene's root. */
export function rootTask(): void {
  v128.store(SCENE_BASE + H_BOUNDS_MIN_X, sceneLo);
  v128.store(SCENE_BASE + H_BOUNDS_MAX_X, sceneHi);
  if (count == 0) {
    store<u32>(SCENE_BASE, u32(end), H_BVH_ROOT);
    for (let i: usize = 0; i < 48; i += 4) { store<f32>(end + i, f32.MAX_VALUE); store<f32>(end + 48 + i, -f32.MAX_VALUE); }
    for (let i: usize = 0; i < 16; i += 4) store<u32>(end + NODE_CHILD + i, u32(end));
    end += NODE_BYTES;
    return;
  }
  // A task: first reference, count, where to write the child reference.
  store<u32>(tasks, 0); store<i32>(tasks, count, 4); store<u32>(tasks, u32(SCENE_BASE + H_BVH_ROOT), 8);
  depth = 1;
}

/**
 * Carries out up to `most` tasks, each a leaf or a node; false when the tree is done. In steps, so that the
 * engine may replace its first, slow code by optimised code between calls.
 */
export function growTree(most: i32): bool {
  const temp = bins;
  for (let step = 0; step < most; step++) {
    if (depth == 0) break;
    depth--;
    const task = tasks + usize(depth) * 16;
    const first = load<u32>(task), n = load<i32>(task, 4), slot = usize(load<u32>(task, 8));
    if (n <= LEAF_TRIANGLES) {
      writeBlock(end, refs + usize(first) * REF_BYTES, n);
      store<u32>(slot, u32(end) | 1);
      end += BLOCK_BYTES;
      leaves++;
      continue;
    }
    const node = end;
    end += NODE_BYTES;
    nodes++;
    store<u32>(slot, u32(node));
    // Ranges of up to four children, at the free end of the task area.
    const ranges = temp + 3072;
    store<u32>(ranges, first); store<i32>(ranges, n, 4);
    boxOf(refs + usize(first) * REF_BYTES, n, ranges + 256);
    let children = 1;
    while (children < 4) {
      let best = -1;
      let bestArea: f32 = -1;
      for (let i = 0; i < children; i++) {
        if (load<i32>(ranges + usize(i) * 8, 4) <= LEAF_TRIANGLES) continue;
        const box = ranges + 256 + usize(i) * 32;
        const area = halfArea(v128.load(box), v128.load(box, 16));
        if (area > bestArea) { bestArea = area; best = i; }
      }
      if (best < 0) break;
      const r = ranges + usize(best) * 8;
      const from = load<u32>(r), size = load<i32>(r, 4);
      split(refs + usize(from) * REF_BYTES, size, bins);
      store<i32>(r, splitLeft, 4);
      const q = ranges + usize(children) * 8;
      store<u32>(q, from + u32(splitLeft)); store<i32>(q, size - splitLeft, 4);
      boxOf(refs + usize(from) * REF_BYTES, splitLeft, ranges + 256 + usize(best) * 32);
      boxOf(refs + usize(from + u32(splitLeft)) * REF_BYTES, size - splitLeft, ranges + 256 + usize(children) * 32);
      children++;
    }
    for (let i = 0; i < 4; i++) {
      const box = ranges + 256 + usize(i) * 32;
      const at4 = node + (usize(i) << 2);
      const used = i < children;
      for (let axis: usize = 0; axis < 3; axis++) {
        store<f32>(at4 + (axis << 4), used ? load<f32>(box + (axis << 2)) : f32.MAX_VALUE);
        store<f32>(at4 + (axis << 4) + 48, used ? load<f32>(box + (axis << 2), 16) : -f32.MAX_VALUE);
      }
      if (!used) { store<u32>(at4, 0, NODE_CHILD); continue; }
      const next = tasks + usize(depth) * 16;
      store<u32>(next, load<u32>(ranges + usize(i) * 8));
      store<i32>(next, load<i32>(ranges + usize(i) * 8, 4), 4);
      store<u32>(next, u32(at4 + NODE_CHILD), 8);
      depth++;
    }
  }
  store<u32>(SCENE_BASE, u32(end), H_BVH_END);
  store<i32>(SCENE_BASE, nodes, H_NODE_COUNT);
  store<i32>(SCENE_BASE, leaves, H_BLOCK_COUNT);
  return depth != 0;
}

/** First byte after the tree. */
export function treeEnd(): usize {
  return end;
}

function boxOf(refs: usize, count: i32, box: usize): void {
  let lo = infinityBox, hi = f32x4.neg(infinityBox);
  for (let i = 0; i < count; i++) {
    const ref = refs + usize(i) * REF_BYTES;
    lo = f32x4.pmin(lo, loadMin(ref));
    hi = f32x4.pmax(hi, v128.load(ref, REF_MAX));
  }
  v128.store(box, lo);
  v128.store(box + 16, hi);
}
