// Shapes of lights that a ray meets: one after another where they are few, else down a tree of boxes.
import {
  H_SHAPES, H_SHAPE_COUNT, H_SHAPE_TREE, KIND_DISK, KIND_SPHERE, L_HALF_U, L_HALF_V, L_NX, L_NY, L_NZ, L_RADIUS, L_UX, L_UY, L_UZ, L_VX, L_VY, L_VZ,
  L_X, L_Y, L_Z, Q_COUNT, Q_FIRST, Q_LEFT, Q_MAX_X, Q_MAX_Y, Q_MAX_Z, Q_MIN_X, Q_MIN_Y, Q_MIN_Z, Q_RIGHT, SCENE_BASE,
} from './layout';
import { kindOf, lightAt } from './light-records';

/** The nearest visible light shape the last `meet` found before its limit (-1 = none). */
export let metLight: i32 = -1;
export let metT: f32 = 0;

/** Distance at which a ray meets the shape of a light beyond tMin; -1 where it does not. */
export function meetShape(l: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32): f32 {
  const kind = kindOf(l);
  const x = ox - load<f32>(l, L_X), y = oy - load<f32>(l, L_Y), z = oz - load<f32>(l, L_Z);
  if (kind == KIND_SPHERE) {
    const r = load<f32>(l, L_RADIUS);
    const b = x * dx + y * dy + z * dz;
    // Distance of the line from the centre, formed from the nearest point to keep digits [Haines et al. 2019].
    const qx = x - b * dx, qy = y - b * dy, qz = z - b * dz;
    const disc = r * r - (qx * qx + qy * qy + qz * qz);
    if (disc < 0) return -1;
    const s = sqrt<f32>(disc);
    if (-b - s > tMin) return -b - s;
    return -b + s > tMin ? -b + s : -1;
  }
  const nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ);
  const denom = dx * nx + dy * ny + dz * nz;
  if (abs(denom) < f32(1e-9)) return -1;
  const t = -(x * nx + y * ny + z * nz) / denom;
  if (!(t > tMin)) return -1;
  const px = x + t * dx, py = y + t * dy, pz = z + t * dz;
  if (kind == KIND_DISK) {
    const r = load<f32>(l, L_RADIUS);
    return px * px + py * py + pz * pz <= r * r ? t : -1;
  }
  const u = px * load<f32>(l, L_UX) + py * load<f32>(l, L_UY) + pz * load<f32>(l, L_UZ);
  const v = px * load<f32>(l, L_VX) + py * load<f32>(l, L_VY) + pz * load<f32>(l, L_VZ);
  return abs(u) <= load<f32>(l, L_HALF_U) && abs(v) <= load<f32>(l, L_HALF_V) ? t : -1;
}

/** Where a ray meets the shape of a light, visible or not; below 0 where it does not. */
export function meetAlone(light: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): f32 {
  return meetShape(lightAt(light), ox, oy, oz, dx, dy, dz, 0);
}

/** The ray that is led through the tree, one over its direction, and the light whose shape is passed over. */
let rx: f32 = 0, ry: f32 = 0, rz: f32 = 0;
let vx: f32 = 0, vy: f32 = 0, vz: f32 = 0;
let ix: f32 = 0, iy: f32 = 0, iz: f32 = 0;
let least: f32 = 0;
let passedOver: i32 = -1;

/** One over a part of a direction; along an axis a number that no distance makes infinite. */
// @ts-ignore: decorator
@inline
function inverse(v: f32): f32 {
  return f32(1) / (abs(v) < f32(1e-12) ? f32(1e-12) : v);
}

function lead(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32): void {
  rx = ox; ry = oy; rz = oz;
  vx = dx; vy = dy; vz = dz;
  ix = inverse(dx); iy = inverse(dy); iz = inverse(dz);
  least = tMin;
}

/** Widens what a box spans along a ray by more than rounding takes away [Ize 2013]. */
const WIDER: f32 = 1.000001;

/** Whether the ray passes through the box of a node before tMax. */
function passes(n: usize, tMax: f32): bool {
  const ax = (load<f32>(n, Q_MIN_X) - rx) * ix, bx = (load<f32>(n, Q_MAX_X) - rx) * ix;
  const ay = (load<f32>(n, Q_MIN_Y) - ry) * iy, by = (load<f32>(n, Q_MAX_Y) - ry) * iy;
  const az = (load<f32>(n, Q_MIN_Z) - rz) * iz, bz = (load<f32>(n, Q_MAX_Z) - rz) * iz;
  const enter = max<f32>(max<f32>(min<f32>(ax, bx), min<f32>(ay, by)), max<f32>(min<f32>(az, bz), least));
  const leave = min<f32>(min<f32>(max<f32>(ax, bx), max<f32>(ay, by)), min<f32>(max<f32>(az, bz), tMax));
  return enter <= leave * WIDER;
}

/** Meets the nearest of some lights in the list of shapes; of two as near the one that is numbered first. */
function meetAll(first: i32, count: i32): void {
  const shapes = load<usize>(SCENE_BASE, H_SHAPES) + (usize(first) << 2);
  for (let k = 0; k < count; k++) {
    const i = load<i32>(shapes + (usize(k) << 2));
    const t = meetShape(lightAt(i), rx, ry, rz, vx, vy, vz, least);
    if (t > 0 && (t < metT || (t == metT && i < metLight))) {
      metT = t;
      metLight = i;
    }
  }
}

function meetBelow(n: usize): void {
  if (!passes(n, metT)) return;
  const left = load<usize>(n, Q_LEFT);
  if (left == 0) { meetAll(load<i32>(n, Q_FIRST), load<i32>(n, Q_COUNT)); return; }
  meetBelow(left);
  meetBelow(load<usize>(n, Q_RIGHT));
}

/** Meets the nearest visible shape of a light in (tMin, tMax). */
export function meet(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32): void {
  metLight = -1;
  metT = tMax;
  const count = load<i32>(SCENE_BASE, H_SHAPE_COUNT);
  if (count == 0) return;
  lead(ox, oy, oz, dx, dy, dz, tMin);
  const root = load<usize>(SCENE_BASE, H_SHAPE_TREE);
  if (root) meetBelow(root);
  else meetAll(0, count);
}

function blocksAny(first: i32, count: i32, tMax: f32): bool {
  const shapes = load<usize>(SCENE_BASE, H_SHAPES) + (usize(first) << 2);
  for (let k = 0; k < count; k++) {
    const i = load<i32>(shapes + (usize(k) << 2));
    if (i == passedOver) continue;
    const t = meetShape(lightAt(i), rx, ry, rz, vx, vy, vz, least);
    if (t > 0 && t < tMax) return true;
  }
  return false;
}

function blocksBelow(n: usize, tMax: f32): bool {
  if (!passes(n, tMax)) return false;
  const left = load<usize>(n, Q_LEFT);
  if (left == 0) return blocksAny(load<i32>(n, Q_FIRST), load<i32>(n, Q_COUNT), tMax);
  return blocksBelow(left, tMax) || blocksBelow(load<usize>(n, Q_RIGHT), tMax);
}

/** Whether a light's shape other than `except` stands in (tMin, tMax). */
export function lightBlocks(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32, except: i32): bool {
  const count = load<i32>(SCENE_BASE, H_SHAPE_COUNT);
  if (count == 0) return false;
  lead(ox, oy, oz, dx, dy, dz, tMin);
  passedOver = except;
  const root = load<usize>(SCENE_BASE, H_SHAPE_TREE);
  return root ? blocksBelow(root, tMax) : blocksAny(0, count, tMax);
}
