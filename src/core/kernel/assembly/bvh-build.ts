// Builds the eight-wide BVH from the packed triangles: references of large boxes are halved first
// (tight clips of the triangle), then binned SAH with triangles counted in blocks of four.
// One thread, fixed order: the tree never depends on how many threads render with it.
import {
  boxOf, coordinate, halfArea, halve, infinityBox, isPassed, REF_BYTES, REF_TRIANGLE,
} from './bvh-references';
import { blocks, split, splitCost, splitLeft } from './bvh-split';
import {
  BLOCK_BYTES, BLOCK_E1, BLOCK_E2, BLOCK_ID, BLOCK_NORMAL, H_BLOCK_COUNT, H_BVH_END, H_BVH_ROOT, H_INDICES,
  H_INSTANCE_COUNT, H_INSTANCES, H_NODE_COUNT, H_POSITIONS, H_TREES, INSTANCE_BYTES, INSTANCE_LEAF, I_MAX_X, I_MIN_X,
  NODE_BYTES, NODE_CHILD, NODE_CHILDREN, PASSED_BIT, SCENE_BASE, T_FIRST_TRIANGLE, T_MAX_X, T_MIN_X, T_ROOT,
  T_SHAPES, T_STRIDE, T_TRIANGLE_COUNT,
} from './layout';

/** Ranges of up to this size are never split. */
const LEAF_TRIANGLES: i32 = 4;
/** Ranges of up to this size become a leaf of several blocks where a node of their own would cost more. */
const MOST_LEAF_TRIANGLES: i32 = 24;
/** Cost of a node of its own in block tests: measured, 1 is best of 1, 2 and 3. */
const NODE_COST: f32 = 1;
/** Below this level ranges are halved by number, so that the traversal stack (7 entries a level) always suffices. */
const MOST_SAH_LEVELS: i32 = 60;

function writeBlock(block: usize, refs: usize, count: i32): void {
  for (let i = 0; i < 4; i++) {
    const at = block + (usize(i) << 2);
    if (i >= count) {
      for (let f: usize = 0; f < usize(BLOCK_ID); f += 16) store<f32>(at + f, 0);
      store<i32>(at, -1, BLOCK_ID);
      continue;
    }
    const triangle = load<i32>(refs + usize(i) * REF_BYTES, REF_TRIANGLE);
    for (let axis = 0; axis < 3; axis++) {
      const a = coordinate(triangle, 0, axis);
      const row = at + (usize(axis) << 4);
      store<f32>(row, a);
      store<f32>(row, coordinate(triangle, 1, axis) - a, BLOCK_E1);
      store<f32>(row, a - coordinate(triangle, 2, axis), BLOCK_E2);
    }
    const ax = load<f32>(at, BLOCK_E1), ay = load<f32>(at, BLOCK_E1 + 16), az = load<f32>(at, BLOCK_E1 + 32);
    const bx = load<f32>(at, BLOCK_E2), by = load<f32>(at, BLOCK_E2 + 16), bz = load<f32>(at, BLOCK_E2 + 32);
    store<f32>(at, ay * bz - az * by, BLOCK_NORMAL);
    store<f32>(at, az * bx - ax * bz, BLOCK_NORMAL + 16);
    store<f32>(at, ax * by - ay * bx, BLOCK_NORMAL + 32);
    store<i32>(at, isPassed(triangle) ? triangle | PASSED_BIT : triangle, BLOCK_ID);
  }
}

/** Sorts the ranges of children, and their boxes 256 bytes on, from the largest box to the smallest. */
function sortByArea(ranges: usize, children: i32): void {
  for (let i = 1; i < children; i++) {
    for (let j = i; j > 0; j--) {
      const r = ranges + usize(j) * 8, box = ranges + 256 + usize(j) * 32;
      const lo = v128.load(box), hi = v128.load(box, 16), lo0 = v128.load(box - 32), hi0 = v128.load(box - 16);
      if (halfArea(lo, hi) <= halfArea(lo0, hi0)) break;
      v128.store(box, lo0); v128.store(box + 16, hi0);
      v128.store(box - 32, lo); v128.store(box - 16, hi);
      const own = load<u64>(r);
      store<u64>(r, load<u64>(r - 8));
      store<u64>(r - 8, own);
    }
  }
}

/** Makes the child whose lane of the node is at `lane` one that no ray enters. */
function emptyChild(lane: usize): void {
  for (let axis: usize = 0; axis < 3; axis++) {
    store<f32>(lane + (axis << 5), f32.MAX_VALUE);
    store<f32>(lane + (axis << 5), -f32.MAX_VALUE, 96);
  }
  store<u32>(lane, 0, NODE_CHILD);
}

/** Whether a range is cheaper as a leaf than as a node, by the surface-area heuristic. */
function makesLeaf(box: usize, refs: usize, count: i32): bool {
  if (count <= leafMost) return true;
  if (world || count > MOST_LEAF_TRIANGLES) return false;
  split(refs, count, bins);
  const area = halfArea(v128.load(box), v128.load(box, 16));
  return area * blocks(count) <= splitCost + NODE_COST * area;
}

// @ts-ignore: decorator
@inline
function instance(i: i32): usize {
  return load<usize>(SCENE_BASE, H_INSTANCES) + usize(i) * INSTANCE_BYTES;
}

/** Writes a leaf's blocks at the end of the tree, or finds the one thing in it, and writes the reference at `slot`. */
function writeLeaf(slot: usize, refs: usize, count: i32): void {
  if (world) {
    const i = load<i32>(refs, REF_TRIANGLE);
    store<u32>(slot, i < 0 ? load<u32>(load<usize>(SCENE_BASE, H_TREES), T_ROOT) : u32(instance(i)) | INSTANCE_LEAF);
    return;
  }
  const whole = (count + 3) >> 2;
  store<u32>(slot, u32(end) | whole);
  for (let i = 0; i < whole; i++) {
    writeBlock(end, refs + usize(i) * 4 * REF_BYTES, min(4, count - i * 4));
    end += BLOCK_BYTES;
  }
  leaves += whole;
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
let treeLo: v128 = f32x4.splat(0);
let treeHi: v128 = f32x4.splat(0);
/** Record of the tree in progress, its first triangle and how many it has. */
let tree: usize = 0;
let first: i32 = 0;
let triangles: i32 = 0;
/** Whether it is the tree of instances, and how many references a leaf holds at most. */
let world: bool = false;
let leafMost: i32 = LEAF_TRIANGLES;

function begin(at: usize, temp: usize): void {
  bins = temp;
  tasks = temp + 4096;
  refs = temp + 65536;
  end = at;
  count = 0;
  halved = 0;
  roundEnd = 0;
  depth = 0;
  treeLo = infinityBox;
  treeHi = f32x4.neg(infinityBox);
}

/** Begins a scene's trees: nodes and blocks are counted from here. */
export function beginTrees(): void {
  nodes = 0;
  leaves = 0;
}

/**
 * Begins the tree of the record at `record`, at `at` (16-byte aligned), with temporary room at `temp`: 32 bytes a
 * reference (at most 1.5 a triangle) and 64 KiB.
 */
export function beginTree(record: usize, at: usize, temp: usize): void {
  begin(at, temp);
  world = false;
  leafMost = LEAF_TRIANGLES;
  tree = record;
  first = load<i32>(record, T_FIRST_TRIANGLE);
  triangles = load<i32>(record, T_TRIANGLE_COUNT);
}

/** Begins the tree over the instances and the first tree, and readies its first task. All other trees are there. */
export function beginWorld(at: usize, temp: usize): void {
  begin(at, temp);
  world = true;
  leafMost = 1;
  const instances = load<i32>(SCENE_BASE, H_INSTANCE_COUNT);
  const ground = load<usize>(SCENE_BASE, H_TREES);
  if (load<i32>(ground, T_TRIANGLE_COUNT) > 0 || instances == 0) {
    v128.store(refs, v128.load(ground, T_MIN_X));
    v128.store(refs, v128.load(ground, T_MAX_X), 16);
    store<i32>(refs, -1, REF_TRIANGLE);
    count = 1;
  }
  for (let i = 0; i < instances; i++) {
    const ref = refs + usize(count++) * REF_BYTES;
    v128.store(ref, v128.load(instance(i), I_MIN_X));
    v128.store(ref, v128.load(instance(i), I_MAX_X), 16);
    store<i32>(ref, i, REF_TRIANGLE);
  }
  startTasks(SCENE_BASE + H_BVH_ROOT);
}

/** Makes references with their whole boxes for the tree's triangles [from, to). */
export function referTriangles(from: i32, to: i32): void {
  const positions = load<usize>(SCENE_BASE, H_POSITIONS), indices = load<usize>(SCENE_BASE, H_INDICES);
  const shapes = load<i32>(tree, T_SHAPES), stride = load<usize>(tree, T_STRIDE);
  let lo = treeLo, hi = treeHi;
  for (let t = from; t < to; t++) {
    const tri = indices + usize(first + t) * 12;
    // Four floats are read of three; the fourth lane is overwritten below.
    const a = v128.load(positions + usize(load<u32>(tri)) * 12);
    const b = v128.load(positions + usize(load<u32>(tri, 4)) * 12);
    const c = v128.load(positions + usize(load<u32>(tri, 8)) * 12);
    let rlo = f32x4.pmin(a, f32x4.pmin(b, c)), rhi = f32x4.pmax(a, f32x4.pmax(b, c));
    for (let k = 1; k < shapes; k++) {
      const p = positions + usize(k) * stride;
      for (let corner: usize = 0; corner < 12; corner += 4) {
        const q = v128.load(p + usize(load<u32>(tri + corner)) * 12);
        rlo = f32x4.pmin(rlo, q);
        rhi = f32x4.pmax(rhi, q);
      }
    }
    const ref = refs + usize(t) * REF_BYTES;
    v128.store(ref, rlo);
    v128.store(ref + 16, rhi);
    store<i32>(ref, first + t, REF_TRIANGLE);
    lo = f32x4.pmin(lo, rlo);
    hi = f32x4.pmax(hi, rhi);
  }
  treeLo = lo;
  treeHi = hi;
  count = to;
}

/**
 * Halves the large references among the next `most`, each once a round, so that room for more references is
 * shared by all that are large; false when a round has found none, or no room is left.
 */
export function halveReferences(most: i32): bool {
  // Pieces of a triangle would not hold it at all times.
  if (load<i32>(tree, T_SHAPES)) return false;
  const limit = triangles + (triangles >> 1);
  const threshold = f32(20) * halfArea(treeLo, treeHi) / f32(triangles);
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
    if (isPassed(load<i32>(ref, REF_TRIANGLE))) continue;
    halve(ref, refs + usize(count) * REF_BYTES, bins);
    count++;
  }
  return true;
}

/** Readies the first task of a tree: all its references, the child reference to be written to its record. */
export function rootTask(): void {
  v128.store(tree + T_MIN_X, treeLo);
  v128.store(tree + T_MAX_X, treeHi);
  if (count == 0) {
    store<u32>(tree, u32(end), T_ROOT);
    for (let i = 0; i < NODE_CHILDREN; i++) emptyChild(end + (usize(i) << 2));
    end += NODE_BYTES;
    return;
  }
  startTasks(tree + T_ROOT);
}

function startTasks(slot: usize): void {
  // A task: first reference, count, where to write the child reference, level in the tree.
  store<u32>(tasks, 0); store<i32>(tasks, count, 4); store<u32>(tasks, u32(slot), 8);
  store<i32>(tasks, 0, 12);
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
    const level = load<i32>(task, 12);
    if (n <= leafMost || (!world && n <= MOST_LEAF_TRIANGLES)) {
      writeLeaf(slot, refs + usize(first) * REF_BYTES, n);
      continue;
    }
    const node = end;
    end += NODE_BYTES;
    nodes++;
    store<u32>(slot, u32(node));
    // Ranges of up to eight children, at the free end of the task area.
    const ranges = temp + 3584;
    store<u32>(ranges, first); store<i32>(ranges, n, 4);
    boxOf(refs + usize(first) * REF_BYTES, n, ranges + 256);
    let children = 1;
    while (children < NODE_CHILDREN) {
      let best = -1;
      let bestArea: f32 = -1;
      for (let i = 0; i < children; i++) {
        if (load<i32>(ranges + usize(i) * 8, 4) <= leafMost) continue;
        const box = ranges + 256 + usize(i) * 32;
        const area = halfArea(v128.load(box), v128.load(box, 16));
        if (area > bestArea) { bestArea = area; best = i; }
      }
      if (best < 0) break;
      const r = ranges + usize(best) * 8;
      const from = load<u32>(r), size = load<i32>(r, 4);
      let left = size >> 1;
      if (level < MOST_SAH_LEVELS) {
        split(refs + usize(from) * REF_BYTES, size, bins);
        left = splitLeft;
      }
      store<i32>(r, left, 4);
      const q = ranges + usize(children) * 8;
      store<u32>(q, from + u32(left)); store<i32>(q, size - left, 4);
      boxOf(refs + usize(from) * REF_BYTES, left, ranges + 256 + usize(best) * 32);
      boxOf(refs + usize(from + u32(left)) * REF_BYTES, size - left, ranges + 256 + usize(children) * 32);
      children++;
    }
    sortByArea(ranges, children);
    for (let i = 0; i < NODE_CHILDREN; i++) {
      const box = ranges + 256 + usize(i) * 32;
      const at4 = node + (usize(i) << 2);
      if (i >= children) { emptyChild(at4); continue; }
      for (let axis: usize = 0; axis < 3; axis++) {
        store<f32>(at4 + (axis << 5), load<f32>(box + (axis << 2)));
        store<f32>(at4 + (axis << 5), load<f32>(box + (axis << 2), 16), 96);
      }
      const from = load<u32>(ranges + usize(i) * 8), size = load<i32>(ranges + usize(i) * 8, 4);
      if (makesLeaf(box, refs + usize(from) * REF_BYTES, size)) {
        // Beside its node, so that both are likely in one page.
        writeLeaf(at4 + NODE_CHILD, refs + usize(from) * REF_BYTES, size);
        continue;
      }
      const next = tasks + usize(depth) * 16;
      store<u32>(next, from);
      store<i32>(next, size, 4);
      store<u32>(next, u32(at4 + NODE_CHILD), 8);
      store<i32>(next, level + 1, 12);
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
