// Things that move while the shutter is open: placements and surfaces at the time of the path, straight between steps.
import {
  BLOCK_BYTES, BLOCK_E1, BLOCK_E2, BLOCK_ID, BLOCK_NORMAL, H_MOVING, H_NORMALS, H_POSITIONS, INSTANCE_BYTES, I_POSES, I_SHAPES,
  I_SLOT, I_STAMP, I_STEPS, I_STRIDE, I_TO_LOCAL0, I_TO_WORLD0, PASSED_BIT, POSE_BYTES, POSE_TIME, P_POSES, SCENE_BASE, SCRATCH_PARAMS, SCRATCH_POSE,
} from './layout';
import { rowTimesPoint } from './matrices';
import { across, vertexOf } from './triangles';

let slots: usize = 0;
let block: usize = 0;
let corners: usize = 0;
/** End of the thread's records of moving instances. */
export let posedEnd: usize = 0;
/** Time of the path within the shutter, 0 to 1; a number that changes with it, never 0. */
export let time: f32 = 0;
let stamp: i32 = 1;

export function bindPoses(scratch: usize): void {
  slots = load<usize>(scratch + SCRATCH_PARAMS, P_POSES);
  block = scratch + SCRATCH_POSE;
  corners = block + BLOCK_BYTES;
  // Scratch areas may hold copies of an earlier render.
  const moving = load<i32>(SCENE_BASE, H_MOVING);
  for (let i = 0; i < moving; i++) store<i32>(slots + usize(i) * INSTANCE_BYTES, 0, I_STAMP);
  posedEnd = slots + usize(moving) * INSTANCE_BYTES;
}

/** Begins a path at `t` within the shutter. */
export function beginTime(t: f32): void {
  time = t;
  stamp = stamp == i32.MAX_VALUE ? 1 : stamp + 1;
}

/** The moment before the path's time, and the way from it to the next, as the last `between` found them. */
export let step: i32 = 0;
export let way: f32 = 0;
/** Finds the last of `count` moments before the path's time, `stride` bytes apart, and the way from there to the next. */
export function between(times: usize, stride: usize, count: i32): void {
  step = 0;
  while (step < count - 2 && load<f32>(times + usize(step + 1) * stride) <= time) step++;
  const a = load<f32>(times + usize(step) * stride), b = load<f32>(times + usize(step + 1) * stride);
  way = (time - a) / (b - a);
}

/** Writes the inverse of a record's matrix to the world. */
function invert(to: usize): void {
  const w = to + I_TO_WORLD0, l = to + I_TO_LOCAL0;
  const a = load<f32>(w), b = load<f32>(w, 4), c = load<f32>(w, 8), d = load<f32>(w, 16), e = load<f32>(w, 20), f = load<f32>(w, 24);
  const g = load<f32>(w, 32), h = load<f32>(w, 36), i = load<f32>(w, 40);
  const x = load<f32>(w, 12), y = load<f32>(w, 28), z = load<f32>(w, 44);
  const p = e * i - f * h, q = f * g - d * i, r = d * h - e * g;
  const k = f32(1) / (a * p + b * q + c * r);
  const l0 = p * k, l1 = (c * h - b * i) * k, l2 = (b * f - c * e) * k;
  const l3 = q * k, l4 = (a * i - c * g) * k, l5 = (c * d - a * f) * k;
  const l6 = r * k, l7 = (b * g - a * h) * k, l8 = (a * e - b * d) * k;
  store<f32>(l, l0); store<f32>(l, l1, 4); store<f32>(l, l2, 8); store<f32>(l, -(l0 * x + l1 * y + l2 * z), 12);
  store<f32>(l, l3, 16); store<f32>(l, l4, 20); store<f32>(l, l5, 24); store<f32>(l, -(l3 * x + l4 * y + l5 * z), 28);
  store<f32>(l, l6, 32); store<f32>(l, l7, 36); store<f32>(l, l8, 40); store<f32>(l, -(l6 * x + l7 * y + l8 * z), 44);
}

/** The record of an instance as it stands at the path's time: itself, or a copy that lasts as long as the path. */
// @ts-ignore: decorator
@inline
export function posed(instance: usize): usize {
  const slot = load<i32>(instance, I_SLOT);
  return slot < 0 ? instance : pose(instance, slot);
}

function pose(instance: usize, slot: i32): usize {
  const at = slots + usize(slot) * INSTANCE_BYTES;
  if (load<i32>(at, I_STAMP) == stamp) return at;
  memory.copy(at, instance, INSTANCE_BYTES);
  store<i32>(at, stamp, I_STAMP);
  const steps = load<i32>(instance, I_STEPS);
  if (steps > 1) {
    const poses = load<usize>(instance, I_POSES);
    between(poses + POSE_TIME, POSE_BYTES, steps);
    const m = poses + usize(step) * POSE_BYTES;
    for (let i: usize = 0; i < 48; i += 4) {
      const v = load<f32>(m + i);
      store<f32>(at + i, v + (load<f32>(m + i, POSE_BYTES) - v) * way, I_TO_WORLD0);
    }
    invert(at);
  }
  return at;
}

/** Whether the surface of an instance changes over the shutter. */
// @ts-ignore: decorator
@inline
export function bends(instance: usize): bool {
  return instance != 0 && load<i32>(instance, I_SHAPES) > 1;
}

/** Writes three floats at `to`: those at `from` of the step before the path's time, on their way to the next. */
// @ts-ignore: decorator
@inline
function blend(to: usize, from: usize, stride: usize): void {
  for (let i: usize = 0; i < 12; i += 4) {
    const v = load<f32>(from + i);
    store<f32>(to + i, v + (load<f32>(from + stride + i) - v) * way);
  }
}

/** The corners of a triangle of a changing surface at the path's time: three positions, then three normals. */
export function bentCorners(triangle: i32, instance: usize): usize {
  const stride = load<usize>(instance, I_STRIDE);
  // The times of its shapes lie behind its placements.
  const times = load<usize>(instance, I_POSES) + usize(load<i32>(instance, I_STEPS) + 2) * POSE_BYTES;
  between(times, 4, load<i32>(instance, I_SHAPES));
  const positions = load<usize>(SCENE_BASE, H_POSITIONS) + usize(step) * stride;
  const normals = load<usize>(SCENE_BASE, H_NORMALS) + usize(step) * stride;
  for (let k: usize = 0; k < 3; k++) {
    const v = vertexOf(triangle, k) * 12;
    blend(corners + k * 12, positions + v, stride);
    blend(corners + 36 + k * 12, normals + v, stride);
  }
  return corners;
}

/** The same of a triangle of any instance; 0 where it keeps its shape. */
// @ts-ignore: decorator
@inline
export function bentOf(triangle: i32, instance: usize): usize {
  return bends(instance) ? bentCorners(triangle, instance) : 0;
}

/** A block of triangles of a changing surface, as they are at the path's time. */
export function bentBlock(from: usize, instance: usize): usize {
  const to = block;
  for (let i: usize = 0; i < 16; i += 4) {
    const id = load<i32>(from + i, BLOCK_ID);
    store<i32>(to + i, id, BLOCK_ID);
    if (id < 0) {
      for (let f: usize = 0; f < usize(BLOCK_ID); f += 16) store<f32>(to + i + f, 0);
      continue;
    }
    const c = bentCorners(id & ~PASSED_BIT, instance);
    for (let axis: usize = 0; axis < 3; axis++) {
      const a = load<f32>(c + (axis << 2)), row = to + i + (axis << 4);
      store<f32>(row, a);
      store<f32>(row, load<f32>(c + (axis << 2), 12) - a, BLOCK_E1);
      store<f32>(row, a - load<f32>(c + (axis << 2), 24), BLOCK_E2);
    }
    const at = to + i;
    const ax = load<f32>(at, BLOCK_E1), ay = load<f32>(at, BLOCK_E1 + 16), az = load<f32>(at, BLOCK_E1 + 32);
    const bx = load<f32>(at, BLOCK_E2), by = load<f32>(at, BLOCK_E2 + 16), bz = load<f32>(at, BLOCK_E2 + 32);
    store<f32>(at, ay * bz - az * by, BLOCK_NORMAL);
    store<f32>(at, az * bx - ax * bz, BLOCK_NORMAL + 16);
    store<f32>(at, ax * by - ay * bx, BLOCK_NORMAL + 32);
  }
  return to;
}

/** Where a place on a surface is at the frame and at the next one. */
export let nowX: f32 = 0;
export let nowY: f32 = 0;
export let nowZ: f32 = 0;
export let nextX: f32 = 0;
export let nextY: f32 = 0;
export let nextZ: f32 = 0;

let lx: f32 = 0, ly: f32 = 0, lz: f32 = 0;
function shapeAt(instance: usize, triangle: i32, u: f32, v: f32, after: usize): void {
  const p = load<usize>(SCENE_BASE, H_POSITIONS) + (usize(load<i32>(instance, I_SHAPES)) + after) * load<usize>(instance, I_STRIDE);
  const a = p + vertexOf(triangle, 0) * 12, b = p + vertexOf(triangle, 1) * 12, c = p + vertexOf(triangle, 2) * 12;
  lx = across(a, b, c, u, v, 0); ly = across(a, b, c, u, v, 4); lz = across(a, b, c, u, v, 8);
}

/** Follows the place (x, y, z) at (u, v) of a triangle of `instance`, as posed, to the frame and the next. */
export function traceMotion(instance: usize, triangle: i32, u: f32, v: f32, x: f32, y: f32, z: f32): void {
  nowX = x; nowY = y; nowZ = z;
  nextX = x; nextY = y; nextZ = z;
  if (!instance || !load<usize>(instance, I_POSES)) return;
  const l = instance + I_TO_LOCAL0;
  const shapes = load<i32>(instance, I_SHAPES);
  lx = rowTimesPoint(l, x, y, z); ly = rowTimesPoint(l + 16, x, y, z); lz = rowTimesPoint(l + 32, x, y, z);
  const m = load<usize>(instance, I_POSES) + usize(load<i32>(instance, I_STEPS)) * POSE_BYTES;
  if (shapes) shapeAt(instance, triangle, u, v, 0);
  nowX = rowTimesPoint(m, lx, ly, lz); nowY = rowTimesPoint(m + 16, lx, ly, lz); nowZ = rowTimesPoint(m + 32, lx, ly, lz);
  if (shapes) shapeAt(instance, triangle, u, v, 1);
  const n = m + POSE_BYTES;
  nextX = rowTimesPoint(n, lx, ly, lz); nextY = rowTimesPoint(n + 16, lx, ly, lz); nextZ = rowTimesPoint(n + 32, lx, ly, lz);
}
