// Closest-hit and any-hit traversal of the four-wide BVH, fixed-width SIMD throughout.
import {
  BLOCK_E1, BLOCK_E2, BLOCK_ID, H_BVH_ROOT, NODE_CHILD, PANE_BIT, SCENE_BASE,
} from './layout';
import { paneB, paneG, paneR, paneTransmittance } from './panes';

/** The nearest hit of the last `closest`: distance, triangle (-1 = none) and barycentric coordinates. */
export let hitT: f32 = 0;
export let hitTriangle: i32 = -1;
export let hitU: f32 = 0;
export let hitV: f32 = 0;
/** What clear panes let through on the last unblocked shadow ray, and whether it crossed any. */
export let clearR: f32 = 1;
export let clearG: f32 = 1;
export let clearB: f32 = 1;
export let clearCrossed: bool = false;

let stackBase: usize = 0;
/** Sixteen bytes below the stack, through which lanes are read by number. */
let laneSpill: usize = 0;
export function setTraversalStack(ptr: usize): void {
  laneSpill = ptr;
  stackBase = ptr + 16;
}

let laneT: v128 = f32x4.splat(0);
let laneU: v128 = f32x4.splat(0);
let laneV: v128 = f32x4.splat(0);

/** Division-free Möller–Trumbore on four triangles: a lane mask of hits in (tMin, tMax), with t, u, v times |det|. */
// @ts-ignore: decorator
@inline
function testBlock(
  b: usize, ox: v128, oy: v128, oz: v128, dx: v128, dy: v128, dz: v128, tMin: v128, tMax: v128,
): i32 {
  const e1x = v128.load(b, BLOCK_E1), e1y = v128.load(b, BLOCK_E1 + 16), e1z = v128.load(b, BLOCK_E1 + 32);
  const e2x = v128.load(b, BLOCK_E2), e2y = v128.load(b, BLOCK_E2 + 16), e2z = v128.load(b, BLOCK_E2 + 32);
  const px = f32x4.sub(f32x4.mul(dy, e2z), f32x4.mul(dz, e2y));
  const py = f32x4.sub(f32x4.mul(dz, e2x), f32x4.mul(dx, e2z));
  const pz = f32x4.sub(f32x4.mul(dx, e2y), f32x4.mul(dy, e2x));
  const det = f32x4.add(f32x4.mul(e1x, px), f32x4.add(f32x4.mul(e1y, py), f32x4.mul(e1z, pz)));
  const sign = v128.and(det, i32x4.splat(0x80000000));
  const abs = v128.xor(det, sign);
  const tx = f32x4.sub(ox, v128.load(b)), ty = f32x4.sub(oy, v128.load(b, 16)), tz = f32x4.sub(oz, v128.load(b, 32));
  const u = v128.xor(sign, f32x4.add(f32x4.mul(tx, px), f32x4.add(f32x4.mul(ty, py), f32x4.mul(tz, pz))));
  const zero = f32x4.splat(0);
  let mask = v128.and(f32x4.ge(u, zero), f32x4.le(u, abs));
  if (!v128.any_true(mask)) return 0;
  const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y));
  const qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z));
  const qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x));
  const v = v128.xor(sign, f32x4.add(f32x4.mul(dx, qx), f32x4.add(f32x4.mul(dy, qy), f32x4.mul(dz, qz))));
  mask = v128.and(mask, v128.and(f32x4.ge(v, zero), f32x4.le(f32x4.add(u, v), abs)));
  const t = v128.xor(sign, f32x4.add(f32x4.mul(e2x, qx), f32x4.add(f32x4.mul(e2y, qy), f32x4.mul(e2z, qz))));
  mask = v128.and(mask, v128.and(f32x4.gt(t, f32x4.mul(abs, tMin)), f32x4.lt(t, f32x4.mul(abs, tMax))));
  mask = v128.and(mask, f32x4.gt(abs, zero));
  const bits = i32x4.bitmask(mask);
  if (bits) {
    const inv = f32x4.div(f32x4.splat(1), abs);
    laneT = f32x4.mul(t, inv);
    laneU = f32x4.mul(u, inv);
    laneV = f32x4.mul(v, inv);
  }
  return bits;
}

// @ts-ignore: decorator
@inline
function lane(v: v128, i: i32): f32 {
  if (i == 0) return f32x4.extract_lane(v, 0);
  if (i == 1) return f32x4.extract_lane(v, 1);
  if (i == 2) return f32x4.extract_lane(v, 2);
  return f32x4.extract_lane(v, 3);
}

// @ts-ignore: decorator
@inline
function safeInverse(d: f32): f32 {
  const tiny: f32 = 1e-18;
  return f32(1) / (abs(d) < tiny ? (d < 0 ? -tiny : tiny) : d);
}

/** One child's entry distance and reference in a word that sorts by distance; all ones when missed. */
// @ts-ignore: decorator
@inline
function packed(hit: bool, t: u32, child: u32): u64 {
  return select<u64>((u64(t) << 32) | u64(child), u64.MAX_VALUE, hit);
}

/** Finds the nearest triangle in (tMin, tMax). Results in the module's `hit*`. */
export function closest(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32,
): void {
  hitTriangle = -1;
  hitT = tMax;
  const ix = safeInverse(dx), iy = safeInverse(dy), iz = safeInverse(dz);
  const nearX = select<i32>(48, 0, ix < 0), farX = 48 - nearX;
  const nearY = select<i32>(64, 16, iy < 0), farY = 80 - nearY;
  const nearZ = select<i32>(80, 32, iz < 0), farZ = 112 - nearZ;
  const vix = f32x4.splat(ix), viy = f32x4.splat(iy), viz = f32x4.splat(iz);
  const vox = f32x4.splat(ox * ix), voy = f32x4.splat(oy * iy), voz = f32x4.splat(oz * iz);
  const ro = f32x4.splat(ox), rp = f32x4.splat(oy), rq = f32x4.splat(oz);
  const rdx = f32x4.splat(dx), rdy = f32x4.splat(dy), rdz = f32x4.splat(dz);
  const vMin = f32x4.splat(tMin);
  let vMax = f32x4.splat(tMax);
  let sp = stackBase;
  let ref: u32 = load<u32>(SCENE_BASE, H_BVH_ROOT);
  while (true) {
    if (ref & 15) {
      let b = usize(ref & ~15);
      let n = ref & 15;
      do {
        let bits = testBlock(b, ro, rp, rq, rdx, rdy, rdz, vMin, vMax);
        while (bits) {
          const i = ctz(bits);
          bits &= bits - 1;
          const t = lane(laneT, i);
          if (t < hitT) {
            hitT = t;
            hitU = lane(laneU, i);
            hitV = lane(laneV, i);
            hitTriangle = load<i32>(b + (usize(i) << 2), BLOCK_ID) & ~PANE_BIT;
          }
        }
        vMax = f32x4.splat(hitT);
        b += 160;
      } while (--n);
    } else {
      const node = usize(ref);
      let t0 = f32x4.sub(f32x4.mul(v128.load(node + nearX), vix), vox);
      const t1 = f32x4.sub(f32x4.mul(v128.load(node + nearY), viy), voy);
      const t2 = f32x4.sub(f32x4.mul(v128.load(node + nearZ), viz), voz);
      let f0 = f32x4.sub(f32x4.mul(v128.load(node + farX), vix), vox);
      const f1 = f32x4.sub(f32x4.mul(v128.load(node + farY), viy), voy);
      const f2 = f32x4.sub(f32x4.mul(v128.load(node + farZ), viz), voz);
      t0 = f32x4.pmax(f32x4.pmax(t0, t1), f32x4.pmax(t2, vMin));
      // The exit is widened by two roundings, so that a ray along a flat box is not lost.
      f0 = f32x4.mul(f32x4.pmin(f32x4.pmin(f0, f1), f32x4.pmin(f2, vMax)), f32x4.splat(1.0000004));
      const bits = i32x4.bitmask(f32x4.le(t0, f0));
      if (bits) {
        const c = v128.load(node, NODE_CHILD);
        if (!(bits & (bits - 1))) {
          ref = load<u32>(node + (usize(ctz(bits)) << 2), NODE_CHILD);
          continue;
        }
        const rest = bits & (bits - 1);
        if (!(rest & (rest - 1))) {
          // Two children, the usual case: the nearer one next, the other waits.
          const i = usize(ctz(bits)) << 2, j = usize(ctz(rest)) << 2;
          v128.store(laneSpill, t0);
          const ti = load<u32>(laneSpill + i), tj = load<u32>(laneSpill + j);
          const ci = load<u32>(node + i, NODE_CHILD), cj = load<u32>(node + j, NODE_CHILD);
          const nearer = ti <= tj;
          store<u64>(sp, (u64(select<u32>(tj, ti, nearer)) << 32) | u64(select<u32>(cj, ci, nearer)));
          sp += 8;
          ref = select<u32>(ci, cj, nearer);
          continue;
        }
        let a0 = packed((bits & 1) != 0, i32x4.extract_lane(t0, 0), i32x4.extract_lane(c, 0));
        let a1 = packed((bits & 2) != 0, i32x4.extract_lane(t0, 1), i32x4.extract_lane(c, 1));
        let a2 = packed((bits & 4) != 0, i32x4.extract_lane(t0, 2), i32x4.extract_lane(c, 2));
        let a3 = packed((bits & 8) != 0, i32x4.extract_lane(t0, 3), i32x4.extract_lane(c, 3));
        let lo = select<u64>(a0, a1, a0 < a1), hi = select<u64>(a1, a0, a0 < a1);
        a0 = lo; a1 = hi;
        lo = select<u64>(a2, a3, a2 < a3); hi = select<u64>(a3, a2, a2 < a3);
        a2 = lo; a3 = hi;
        lo = select<u64>(a0, a2, a0 < a2); hi = select<u64>(a2, a0, a0 < a2);
        a0 = lo; a2 = hi;
        lo = select<u64>(a1, a3, a1 < a3); hi = select<u64>(a3, a1, a1 < a3);
        a1 = lo; a3 = hi;
        lo = select<u64>(a1, a2, a1 < a2); hi = select<u64>(a2, a1, a1 < a2);
        a1 = lo; a2 = hi;
        if (a3 != u64.MAX_VALUE) { store<u64>(sp, a3); sp += 8; }
        if (a2 != u64.MAX_VALUE) { store<u64>(sp, a2); sp += 8; }
        store<u64>(sp, a1); sp += 8;
        ref = u32(a0);
        continue;
      }
    }
    // Pop the nearest waiting child that is still nearer than the hit.
    let found = false;
    while (sp != stackBase) {
      sp -= 8;
      const word = load<u64>(sp);
      if (reinterpret<f32>(u32(word >> 32)) <= hitT) {
        ref = u32(word);
        found = true;
        break;
      }
    }
    if (!found) return;
  }
}

/** Whether anything opaque lies in (tMin, tMax). Clear panes tint `clear*` instead of blocking. */
export function occluded(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32,
): bool {
  clearR = 1; clearG = 1; clearB = 1;
  clearCrossed = false;
  const ix = safeInverse(dx), iy = safeInverse(dy), iz = safeInverse(dz);
  const nearX = select<i32>(48, 0, ix < 0), farX = 48 - nearX;
  const nearY = select<i32>(64, 16, iy < 0), farY = 80 - nearY;
  const nearZ = select<i32>(80, 32, iz < 0), farZ = 112 - nearZ;
  const vix = f32x4.splat(ix), viy = f32x4.splat(iy), viz = f32x4.splat(iz);
  const vox = f32x4.splat(ox * ix), voy = f32x4.splat(oy * iy), voz = f32x4.splat(oz * iz);
  const ro = f32x4.splat(ox), rp = f32x4.splat(oy), rq = f32x4.splat(oz);
  const rdx = f32x4.splat(dx), rdy = f32x4.splat(dy), rdz = f32x4.splat(dz);
  const vMin = f32x4.splat(tMin), vMax = f32x4.splat(tMax);
  let sp = stackBase;
  let ref: u32 = load<u32>(SCENE_BASE, H_BVH_ROOT);
  while (true) {
    if (ref & 15) {
      let b = usize(ref & ~15);
      let n = ref & 15;
      do {
        let bits = testBlock(b, ro, rp, rq, rdx, rdy, rdz, vMin, vMax);
        while (bits) {
          const i = ctz(bits);
          bits &= bits - 1;
          const triangle = load<i32>(b + (usize(i) << 2), BLOCK_ID);
          if (!(triangle & PANE_BIT)) return true;
          paneTransmittance(triangle & ~PANE_BIT, dx, dy, dz);
          clearR *= paneR; clearG *= paneG; clearB *= paneB;
          clearCrossed = true;
        }
        b += 160;
      } while (--n);
    } else {
      const node = usize(ref);
      let t0 = f32x4.sub(f32x4.mul(v128.load(node + nearX), vix), vox);
      const t1 = f32x4.sub(f32x4.mul(v128.load(node + nearY), viy), voy);
      const t2 = f32x4.sub(f32x4.mul(v128.load(node + nearZ), viz), voz);
      let f0 = f32x4.sub(f32x4.mul(v128.load(node + farX), vix), vox);
      const f1 = f32x4.sub(f32x4.mul(v128.load(node + farY), viy), voy);
      const f2 = f32x4.sub(f32x4.mul(v128.load(node + farZ), viz), voz);
      t0 = f32x4.pmax(f32x4.pmax(t0, t1), f32x4.pmax(t2, vMin));
      f0 = f32x4.mul(f32x4.pmin(f32x4.pmin(f0, f1), f32x4.pmin(f2, vMax)), f32x4.splat(1.0000004));
      let bits = i32x4.bitmask(f32x4.le(t0, f0));
      if (bits) {
        ref = load<u32>(node + (usize(ctz(bits)) << 2), NODE_CHILD);
        bits &= bits - 1;
        while (bits) {
          store<u32>(sp, load<u32>(node + (usize(ctz(bits)) << 2), NODE_CHILD));
          sp += 4;
          bits &= bits - 1;
        }
        continue;
      }
    }
    if (sp == stackBase) return false;
    sp -= 4;
    ref = load<u32>(sp);
  }
}
