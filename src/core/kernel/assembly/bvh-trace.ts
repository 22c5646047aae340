// Closest-hit and any-hit traversal of the eight-wide BVH, fixed-width SIMD throughout.
import {
  BLOCK_BYTES, BLOCK_E1, BLOCK_E2, BLOCK_ID, BLOCK_NORMAL, H_BVH_ROOT, H_TREES, INSTANCE_LEAF, I_TO_LOCAL0, I_TREE,
  LEVEL_STACK_BYTES, NODE_CHILD, PASSED_BIT, SCENE_BASE, TREE_BYTES, T_ROOT,
} from './layout';
import { rowTimes, rowTimesPoint } from './matrices';
import { paneAlong, paneB, paneG, paneIsBoundary, paneExtinction, paneIsGlass, paneR, paneTransmittance } from './panes';
import { bends, bentBlock, posed } from './poses';
import { recordRay, recordsRays } from './ray-records';
import { isCatcher } from './rules';

/** The nearest hit of the last `closest`: distance, triangle (-1 = none) and barycentric coordinates. */
export let hitT: f32 = 0;
export let hitTriangle: i32 = -1;
export let hitU: f32 = 0;
export let hitV: f32 = 0;
/** Record of the instance that was hit, 0 for what stands in world space. */
export let hitInstance: usize = 0;
/** What panes and cut-outs let through on the last unblocked shadow ray, and whether it crossed any glass. */
export let clearR: f32 = 1;
export let clearG: f32 = 1;
export let clearB: f32 = 1;
export let clearCrossed: bool = false;
/** Whether the shadow ray has passed anything but edges of fog: glass, cut-outs, what casts no shadow. */
export let passedAny: bool = false;
/** Distances at which it left meshes' fogs less those at which it entered them, each times its fogs' extinction, and how much extinction it gained on its way. */
export let fogPassed: f32 = 0;
export let fogGained: f64 = 0;

/**
 * What the loops read of a ray, where the threads' stack begins: origin, direction, inverse direction (3 floats
 * each), offsets of the near and the far planes in a node (3 words each), from `RAY_ENTRIES` the entry
 * distances of a node's children, from `RAY_LANES` t, u and v of the last block that was hit. The stack of waiting
 * children follows.
 */
const RAY_INVERSE: usize = 24;
const RAY_NEAR: usize = 36;
const RAY_FAR: usize = 48;
const RAY_ENTRIES: usize = 64;
const RAY_LANES: usize = 96;
const RAY_BYTES: usize = 144;
let rayAt: usize = 0;
export function setTraversalStack(ptr: usize): void {
  rayAt = ptr;
}

/**
 * Division-free Möller–Trumbore on four triangles, their normals at hand: a lane mask of hits in (tMin, tMax),
 * with t, u, v of the lanes at `RAY_LANES`.
 */
// @ts-ignore: decorator
@inline
function testBlock(b: usize, ray: usize, tMin: v128, tMax: v128): i32 {
  const dx = v128.load_splat<f32>(ray, 12), dy = v128.load_splat<f32>(ray, 16), dz = v128.load_splat<f32>(ray, 20);
  const nx = v128.load(b, BLOCK_NORMAL), ny = v128.load(b, BLOCK_NORMAL + 16), nz = v128.load(b, BLOCK_NORMAL + 32);
  const det = f32x4.add(f32x4.mul(dx, nx), f32x4.add(f32x4.mul(dy, ny), f32x4.mul(dz, nz)));
  const cx = f32x4.sub(v128.load(b), v128.load_splat<f32>(ray));
  const cy = f32x4.sub(v128.load(b, 16), v128.load_splat<f32>(ray, 4));
  const cz = f32x4.sub(v128.load(b, 32), v128.load_splat<f32>(ray, 8));
  const rx = f32x4.sub(f32x4.mul(cy, dz), f32x4.mul(cz, dy));
  const ry = f32x4.sub(f32x4.mul(cz, dx), f32x4.mul(cx, dz));
  const rz = f32x4.sub(f32x4.mul(cx, dy), f32x4.mul(cy, dx));
  const sign = v128.and(det, i32x4.splat(0x80000000));
  const abs = v128.xor(det, sign);
  const u = v128.xor(sign, f32x4.add(f32x4.mul(rx, v128.load(b, BLOCK_E2)),
    f32x4.add(f32x4.mul(ry, v128.load(b, BLOCK_E2 + 16)), f32x4.mul(rz, v128.load(b, BLOCK_E2 + 32)))));
  const v = v128.xor(sign, f32x4.add(f32x4.mul(rx, v128.load(b, BLOCK_E1)),
    f32x4.add(f32x4.mul(ry, v128.load(b, BLOCK_E1 + 16)), f32x4.mul(rz, v128.load(b, BLOCK_E1 + 32)))));
  const t = v128.xor(sign, f32x4.add(f32x4.mul(cx, nx), f32x4.add(f32x4.mul(cy, ny), f32x4.mul(cz, nz))));
  // u and v are both at least 0 just when the lesser is; an empty lane has det = 0 and t = 0, which tMin·0 refuses.
  const inside = v128.and(f32x4.ge(f32x4.pmin(u, v), f32x4.splat(0)), f32x4.le(f32x4.add(u, v), abs));
  const between = v128.and(f32x4.gt(t, f32x4.mul(abs, tMin)), f32x4.lt(t, f32x4.mul(abs, tMax)));
  const bits = i32x4.bitmask(v128.and(inside, between));
  if (bits) {
    const inv = f32x4.div(f32x4.splat(1), abs);
    v128.store(ray, f32x4.mul(t, inv), RAY_LANES);
    v128.store(ray, f32x4.mul(u, inv), RAY_LANES + 16);
    v128.store(ray, f32x4.mul(v, inv), RAY_LANES + 32);
  }
  return bits;
}

// @ts-ignore: decorator
@inline
function safeInverse(d: f32): f32 {
  const tiny: f32 = 1e-18;
  return f32(1) / (abs(d) < tiny ? (d < 0 ? -tiny : tiny) : d);
}

/**
 * Writes what the loops read of a ray: origin, direction, inverse direction, and where the near and far planes
 * lie in a node. Through memory, since the engine would sink the divisions into the loop otherwise.
 */
// @ts-ignore: decorator
@inline
function placeRay(ray: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  store<f32>(ray, ox); store<f32>(ray, oy, 4); store<f32>(ray, oz, 8);
  store<f32>(ray, dx, 12); store<f32>(ray, dy, 16); store<f32>(ray, dz, 20);
  store<f32>(ray, safeInverse(dx), RAY_INVERSE);
  store<f32>(ray, safeInverse(dy), RAY_INVERSE + 4);
  store<f32>(ray, safeInverse(dz), RAY_INVERSE + 8);
  const x = select<u32>(96, 0, dx < 0), y = select<u32>(128, 32, dy < 0), z = select<u32>(160, 64, dz < 0);
  store<u32>(ray, x, RAY_NEAR); store<u32>(ray, y, RAY_NEAR + 4); store<u32>(ray, z, RAY_NEAR + 8);
  store<u32>(ray, 96 - x, RAY_FAR); store<u32>(ray, 160 - y, RAY_FAR + 4); store<u32>(ray, 224 - z, RAY_FAR + 8);
}

/** A child's entry distance and reference in a word that sorts by distance; `i` is four times its lane. */
// @ts-ignore: decorator
@inline
function waiting(ray: usize, node: usize, i: usize): u64 {
  return (u64(load<u32>(ray + i, RAY_ENTRIES)) << 32) | u64(load<u32>(node + i, NODE_CHILD));
}

let keptT: f32 = 0, keptU: f32 = 0, keptV: f32 = 0, keptTriangle: i32 = -1, keptInstance: usize = 0;
/** Keeps the hit last found while another ray is followed. */
export function keepHit(): void {
  keptT = hitT; keptU = hitU; keptV = hitV; keptTriangle = hitTriangle; keptInstance = hitInstance;
}
export function recallHit(): void {
  hitT = keptT; hitU = keptU; hitV = keptV; hitTriangle = keptTriangle; hitInstance = keptInstance;
}

/** Finds the nearest triangle in (tMin, tMax). Results in the module's `hit*`. */
export function closest(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32,
): void {
  hitTriangle = -1;
  hitT = tMax;
  if (recordsRays()) recordRay(ox, oy, oz, dx, dy, dz, tMin, tMax, 0);
  placeRay(rayAt, ox, oy, oz, dx, dy, dz);
  closestIn(load<u32>(SCENE_BASE, H_BVH_ROOT), rayAt, 0, tMin);
}

/**
 * Writes the ray at `ray` in the space of `instance` one level on; returns where. Its direction keeps no unit length,
 * so that t stays t.
 */
function enter(instance: usize, ray: usize): usize {
  const m = instance + I_TO_LOCAL0;
  const ox = load<f32>(ray), oy = load<f32>(ray, 4), oz = load<f32>(ray, 8);
  const dx = load<f32>(ray, 12), dy = load<f32>(ray, 16), dz = load<f32>(ray, 20);
  const local = ray + LEVEL_STACK_BYTES;
  placeRay(
    local,
    rowTimesPoint(m, ox, oy, oz), rowTimesPoint(m + 16, ox, oy, oz), rowTimesPoint(m + 32, ox, oy, oz),
    rowTimes(m, dx, dy, dz), rowTimes(m + 16, dx, dy, dz), rowTimes(m + 32, dx, dy, dz),
  );
  return local;
}

// @ts-ignore: decorator
@inline
function treeOf(instance: usize): u32 {
  return load<u32>(load<usize>(SCENE_BASE, H_TREES) + usize(load<i32>(instance, I_TREE)) * TREE_BYTES, T_ROOT);
}

/** Finds a hit below `root` nearer than `hitT`, for the ray placed at `ray` in the space of `instance` (0 = world). */
function closestIn(root: u32, ray: usize, instance: usize, tMin: f32): void {
  let nearest = hitT;
  const bent = bends(instance);
  const ox4 = v128.load_splat<f32>(ray), oy4 = v128.load_splat<f32>(ray, 4), oz4 = v128.load_splat<f32>(ray, 8);
  const vix = v128.load_splat<f32>(ray, RAY_INVERSE), viy = v128.load_splat<f32>(ray, RAY_INVERSE + 4);
  const viz = v128.load_splat<f32>(ray, RAY_INVERSE + 8);
  const nearX = load<u32>(ray, RAY_NEAR), nearY = load<u32>(ray, RAY_NEAR + 4), nearZ = load<u32>(ray, RAY_NEAR + 8);
  const farX = load<u32>(ray, RAY_FAR), farY = load<u32>(ray, RAY_FAR + 4), farZ = load<u32>(ray, RAY_FAR + 8);
  const vMin = f32x4.splat(tMin);
  let vMax = f32x4.splat(nearest);
  const base = ray + RAY_BYTES;
  let sp = base;
  let ref: u32 = root;
  while (true) {
    if ((ref & 15) == INSTANCE_LEAF) {
      const entered = posed(usize(ref & ~15));
      hitT = nearest;
      closestIn(treeOf(entered), enter(entered, ray), entered, tMin);
      nearest = hitT;
      vMax = f32x4.splat(nearest);
    } else if (ref & 15) {
      let b = usize(ref & ~15);
      let n = ref & 15;
      do {
        let bits = testBlock(bent ? bentBlock(b, instance) : b, ray, vMin, vMax);
        while (bits) {
          const i = ctz(bits);
          bits &= bits - 1;
          const at = ray + (usize(i) << 2);
          const t = load<f32>(at, RAY_LANES);
          if (t < nearest) {
            nearest = t;
            hitU = load<f32>(at, RAY_LANES + 16);
            hitV = load<f32>(at, RAY_LANES + 32);
            hitTriangle = load<i32>(b + (usize(i) << 2), BLOCK_ID) & ~PASSED_BIT;
            hitInstance = instance;
          }
        }
        vMax = f32x4.splat(nearest);
        b += BLOCK_BYTES;
      } while (--n);
    } else {
      const node = usize(ref);
      const a0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), ox4), vix);
      const a1 = f32x4.mul(f32x4.sub(v128.load(node + nearY), oy4), viy);
      const a2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), oz4), viz);
      const a3 = f32x4.mul(f32x4.sub(v128.load(node + farX), ox4), vix);
      const a4 = f32x4.mul(f32x4.sub(v128.load(node + farY), oy4), viy);
      const a5 = f32x4.mul(f32x4.sub(v128.load(node + farZ), oz4), viz);
      // Storing each half's entries at once keeps the engine from loading all planes first and spilling them.
      const aNear = f32x4.pmax(f32x4.pmax(a0, a1), f32x4.pmax(a2, vMin));
      v128.store(ray, aNear, RAY_ENTRIES);
      const aFar = f32x4.pmin(f32x4.pmin(a3, a4), f32x4.pmin(a5, vMax));
      const b0 = f32x4.mul(f32x4.sub(v128.load(node + nearX, 16), ox4), vix);
      const b1 = f32x4.mul(f32x4.sub(v128.load(node + nearY, 16), oy4), viy);
      const b2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ, 16), oz4), viz);
      const b3 = f32x4.mul(f32x4.sub(v128.load(node + farX, 16), ox4), vix);
      const b4 = f32x4.mul(f32x4.sub(v128.load(node + farY, 16), oy4), viy);
      const b5 = f32x4.mul(f32x4.sub(v128.load(node + farZ, 16), oz4), viz);
      const bNear = f32x4.pmax(f32x4.pmax(b0, b1), f32x4.pmax(b2, vMin));
      v128.store(ray, bNear, RAY_ENTRIES + 16);
      const bFar = f32x4.pmin(f32x4.pmin(b3, b4), f32x4.pmin(b5, vMax));
      let bits = i32x4.bitmask(f32x4.le(aNear, aFar)) | (i32x4.bitmask(f32x4.le(bNear, bFar)) << 4);
      if (bits) {
        const i = usize(ctz(bits)) << 2;
        bits &= bits - 1;
        ref = load<u32>(node + i, NODE_CHILD);
        if (!bits) continue;
        const j = usize(ctz(bits)) << 2;
        bits &= bits - 1;
        const p = waiting(ray, node, i), q = waiting(ray, node, j);
        let a0 = select<u64>(p, q, p < q), a1 = select<u64>(q, p, p < q);
        if (!bits) {
          // Two children, the usual case: the nearer one next, the other waits.
          store<u64>(sp, a1);
          sp += 8;
          ref = u32(a0);
          continue;
        }
        // The nearest goes next, the others wait with the nearer ones on top.
        const from = sp;
        store<u64>(sp, a1);
        sp += 8;
        do {
          let word = waiting(ray, node, usize(ctz(bits)) << 2);
          bits &= bits - 1;
          if (word < a0) { const nearer = word; word = a0; a0 = nearer; }
          let at = sp;
          while (at != from) {
            const below = load<u64>(at - 8);
            if (below >= word) break;
            store<u64>(at, below);
            at -= 8;
          }
          store<u64>(at, word);
          sp += 8;
        } while (bits);
        ref = u32(a0);
        continue;
      }
    }
    // Pop the nearest waiting child that is still nearer than the hit.
    let found = false;
    while (sp != base) {
      sp -= 8;
      const word = load<u64>(sp);
      if (reinterpret<f32>(u32(word >> 32)) <= nearest) {
        ref = u32(word);
        found = true;
        break;
      }
    }
    if (!found) break;
  }
  hitT = nearest;
}

/** Makes shadow rays see shadow catchers alone. */
export function seeCatchersAlone(yes: bool): void {
  catchersAlone = yes;
}
let catchersAlone: bool = false;

/** Whether anything opaque lies in (tMin, tMax). Panes and cut-outs weaken `clear*` instead of blocking. */
export function occluded(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32,
): bool {
  clearR = 1; clearG = 1; clearB = 1;
  clearCrossed = false;
  passedAny = false;
  fogPassed = 0; fogGained = 0;
  if (recordsRays()) recordRay(ox, oy, oz, dx, dy, dz, tMin, tMax, 1);
  placeRay(rayAt, ox, oy, oz, dx, dy, dz);
  return occludedIn(load<u32>(SCENE_BASE, H_BVH_ROOT), rayAt, 0, tMin, tMax);
}

/** Whether anything opaque lies in (tMin, tMax) below `root`, for a ray placed alike. */
function occludedIn(root: u32, ray: usize, instance: usize, tMin: f32, tMax: f32): bool {
  const ox4 = v128.load_splat<f32>(ray), oy4 = v128.load_splat<f32>(ray, 4), oz4 = v128.load_splat<f32>(ray, 8);
  const vix = v128.load_splat<f32>(ray, RAY_INVERSE), viy = v128.load_splat<f32>(ray, RAY_INVERSE + 4);
  const viz = v128.load_splat<f32>(ray, RAY_INVERSE + 8);
  const nearX = load<u32>(ray, RAY_NEAR), nearY = load<u32>(ray, RAY_NEAR + 4), nearZ = load<u32>(ray, RAY_NEAR + 8);
  const farX = load<u32>(ray, RAY_FAR), farY = load<u32>(ray, RAY_FAR + 4), farZ = load<u32>(ray, RAY_FAR + 8);
  const vMin = f32x4.splat(tMin), vMax = f32x4.splat(tMax);
  const bent = bends(instance);
  const base = ray + RAY_BYTES;
  let sp = base;
  let ref: u32 = root;
  while (true) {
    if ((ref & 15) == INSTANCE_LEAF) {
      const entered = posed(usize(ref & ~15));
      if (occludedIn(treeOf(entered), enter(entered, ray), entered, tMin, tMax)) return true;
    } else if (ref & 15) {
      let b = usize(ref & ~15);
      let n = ref & 15;
      do {
        let bits = testBlock(bent ? bentBlock(b, instance) : b, ray, vMin, vMax);
        while (bits) {
          const i = ctz(bits);
          bits &= bits - 1;
          const triangle = load<i32>(b + (usize(i) << 2), BLOCK_ID);
          if (catchersAlone) {
            if (isCatcher(triangle & ~PASSED_BIT, instance)) return true;
            continue;
          }
          if (!(triangle & PASSED_BIT)) return true;
          const at = ray + (usize(i) << 2);
          paneTransmittance(
            triangle & ~PASSED_BIT, instance, load<f32>(ray, 12), load<f32>(ray, 16), load<f32>(ray, 20),
            load<f32>(at, RAY_LANES), load<f32>(at, RAY_LANES + 16), load<f32>(at, RAY_LANES + 32),
          );
          if (paneR + paneG + paneB <= 0) return true;
          clearR *= paneR; clearG *= paneG; clearB *= paneB;
          if (paneIsGlass) clearCrossed = true;
          if (paneIsBoundary) {
            const t = load<f32>(at, RAY_LANES);
            const gained = paneAlong < 0 ? paneExtinction : -paneExtinction;
            fogPassed -= f32(gained) * t;
            fogGained += gained;
          } else passedAny = true;
        }
        b += BLOCK_BYTES;
      } while (--n);
    } else {
      const node = usize(ref);
      const a0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), ox4), vix);
      const a1 = f32x4.mul(f32x4.sub(v128.load(node + nearY), oy4), viy);
      const a2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), oz4), viz);
      const a3 = f32x4.mul(f32x4.sub(v128.load(node + farX), ox4), vix);
      const a4 = f32x4.mul(f32x4.sub(v128.load(node + farY), oy4), viy);
      const a5 = f32x4.mul(f32x4.sub(v128.load(node + farZ), oz4), viz);
      const aNear = f32x4.pmax(f32x4.pmax(a0, a1), f32x4.pmax(a2, vMin));
      const aFar = f32x4.pmin(f32x4.pmin(a3, a4), f32x4.pmin(a5, vMax));
      const b0 = f32x4.mul(f32x4.sub(v128.load(node + nearX, 16), ox4), vix);
      const b1 = f32x4.mul(f32x4.sub(v128.load(node + nearY, 16), oy4), viy);
      const b2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ, 16), oz4), viz);
      const b3 = f32x4.mul(f32x4.sub(v128.load(node + farX, 16), ox4), vix);
      const b4 = f32x4.mul(f32x4.sub(v128.load(node + farY, 16), oy4), viy);
      const b5 = f32x4.mul(f32x4.sub(v128.load(node + farZ, 16), oz4), viz);
      const bNear = f32x4.pmax(f32x4.pmax(b0, b1), f32x4.pmax(b2, vMin));
      const bFar = f32x4.pmin(f32x4.pmin(b3, b4), f32x4.pmin(b5, vMax));
      let bits = i32x4.bitmask(f32x4.le(aNear, aFar)) | (i32x4.bitmask(f32x4.le(bNear, bFar)) << 4);
      if (bits) {
        ref = load<u32>(node + (usize(ctz(bits)) << 2), NODE_CHILD);
        bits &= bits - 1;
        while (bits) {
          // Children stand from large to small: the larger ones, likelier to block, are looked at first.
          const i = 31 - clz(bits);
          store<u32>(sp, load<u32>(node + (usize(i) << 2), NODE_CHILD));
          sp += 4;
          bits ^= 1 << i;
        }
        continue;
      }
    }
    if (sp == base) return false;
    sp -= 4;
    ref = load<u32>(sp);
  }
}
