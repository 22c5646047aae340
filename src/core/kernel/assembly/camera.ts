// Thin-lens camera with filter importance sampling [Ernst et al. 2006], moving over the shutter.
import { cosine, sine, turn } from './angles';
import {
  CAMERA_BYTES, CAMERA_TIME, FILTER_TABLE_SIZE, MOST_CAMERA_STEPS, P_BLADES, P_BLADES_TURN, P_CAMERA_STEPS, P_CATS_EYE, P_CLIP_FAR, P_CLIP_NEAR,
  P_FILTER_WIDTH, P_FOCUS, P_HEIGHT, P_LENS_RADIUS, P_SHIFT_X, P_SHIFT_Y, P_TAN_HALF_X, P_TAN_HALF_Y, P_WIDTH, SCRATCH_CAMERA,
  SCRATCH_FILTER, SCRATCH_PARAMS,
} from './layout';

export let ox: f32 = 0;
export let oy: f32 = 0;
export let oz: f32 = 0;
export let dx: f32 = 0;
export let dy: f32 = 0;
export let dz: f32 = 0;
/** Squared distance of the sample from the pixel centre, in pixels; how far the ray reaches. */
export let off2: f32 = 0;
export let far: f32 = 0;

let scratch: usize = 0;
/** The camera at the time of the path: place, right, up and back, three floats each. */
let now: usize = 0;
let steps: i32 = 1;
export function bindCamera(base: usize): void {
  scratch = base;
  steps = load<i32>(base + SCRATCH_PARAMS, P_CAMERA_STEPS);
  now = base + SCRATCH_CAMERA + (steps > 1 ? usize(MOST_CAMERA_STEPS * CAMERA_BYTES) : 0);
}

/** Takes the camera's place at `time` within the shutter. */
export function moveCamera(time: f32): void {
  if (steps <= 1) return;
  let from = scratch + SCRATCH_CAMERA;
  for (let i = steps - 2; i > 0 && load<f32>(from, CAMERA_BYTES + CAMERA_TIME) <= time; i--) from += CAMERA_BYTES;
  const a = load<f32>(from, CAMERA_TIME);
  const way = (time - a) / (load<f32>(from, CAMERA_BYTES + CAMERA_TIME) - a);
  for (let i: usize = 0; i < usize(CAMERA_TIME); i += 4) {
    const v = load<f32>(from + i);
    store<f32>(now + i, v + (load<f32>(from + i, CAMERA_BYTES) - v) * way);
  }
  for (let i: usize = 12; i < usize(CAMERA_TIME); i += 12) {
    const a = now + i;
    const x = load<f32>(a), y = load<f32>(a, 4), z = load<f32>(a, 8);
    const k = f32(1) / sqrt<f32>(x * x + y * y + z * z);
    store<f32>(a, x * k); store<f32>(a, y * k, 4); store<f32>(a, z * k, 8);
  }
}

/** Offset in (−½, ½) filter widths whose distribution is the filter: the tabled inverse, linearly between. */
function filterOffset(u: f32): f32 {
  const x = u * f32(FILTER_TABLE_SIZE - 1);
  const i = min(i32(x), FILTER_TABLE_SIZE - 2);
  const at = scratch + SCRATCH_FILTER + (usize(i) << 2);
  const a = load<f32>(at), b = load<f32>(at, 4);
  return a + (b - a) * (x - f32(i));
}

let lensX: f32 = 0, lensY: f32 = 0;
/** An even place on the aperture of radius 1: round, or a polygon within that circle. */
function sampleAperture(s: f32, t: f32): void {
  const p = scratch + SCRATCH_PARAMS;
  const blades = load<i32>(p, P_BLADES);
  if (blades < 3) {
    const r = sqrt<f32>(s);
    turn(t);
    lensX = r * cosine;
    lensY = r * sine;
    return;
  }
  // One of the triangles about the centre, then an even place in it.
  const at = t * f32(blades);
  const k = min(i32(at), blades - 1);
  const along = at - f32(k), out = sqrt<f32>(s);
  const a = load<f32>(p, P_BLADES_TURN) + f32(k) / f32(blades);
  turn(a);
  const ax = cosine, ay = sine;
  turn(a + f32(1) / f32(blades));
  const bx = cosine, by = sine;
  lensX = out * (ax + (bx - ax) * along);
  lensY = out * (ay + (by - ay) * along);
}

/** Narrows the place on the aperture along the line to the picture's middle, x and y from it in half diagonals. */
function narrow(x: f32, y: f32): void {
  const d = sqrt<f32>(x * x + y * y);
  if (d < f32(1e-6)) return;
  const ux = x / d, uy = y / d;
  const k = load<f32>(scratch + SCRATCH_PARAMS, P_CATS_EYE) * min<f32>(d, 1) * (lensX * ux + lensY * uy);
  lensX -= k * ux;
  lensY -= k * uy;
}

/** A ray through pixel (px, py): (u, v) chooses the place in the pixel, (s, t) the place on the lens. */
export function cameraRay(px: i32, py: i32, u: f32, v: f32, s: f32, t: f32): void {
  const p = scratch + SCRATCH_PARAMS;
  const width = load<f32>(p, P_FILTER_WIDTH);
  const fx = filterOffset(u) * width, fy = filterOffset(v) * width;
  off2 = fx * fx + fy * fy;
  const w = f32(load<i32>(p, P_WIDTH)), h = f32(load<i32>(p, P_HEIGHT));
  const sx = f32(2) * (f32(px) + f32(0.5) + fx) / w - f32(1), sy = f32(1) - f32(2) * (f32(py) + f32(0.5) + fy) / h;
  const tanX = load<f32>(p, P_TAN_HALF_X), tanY = load<f32>(p, P_TAN_HALF_Y);
  const x = (sx + f32(2) * load<f32>(p, P_SHIFT_X)) * tanX, y = (sy + f32(2) * load<f32>(p, P_SHIFT_Y)) * tanY;
  const lens = load<f32>(p, P_LENS_RADIUS), focus = load<f32>(p, P_FOCUS);
  let lx: f32 = 0, ly: f32 = 0;
  if (lens > 0) {
    sampleAperture(s, t);
    if (load<f32>(p, P_CATS_EYE) > 0) {
      const diagonal = f32(1) / sqrt<f32>(tanX * tanX + tanY * tanY);
      narrow(sx * tanX * diagonal, sy * tanY * diagonal);
    }
    lx = lens * lensX;
    ly = lens * lensY;
  }
  const cx = lens > 0 ? x - lx / focus : x, cy = lens > 0 ? y - ly / focus : y;
  const rx = load<f32>(now, 12), ry = load<f32>(now, 16), rz = load<f32>(now, 20);
  const ux = load<f32>(now, 24), uy = load<f32>(now, 28), uz = load<f32>(now, 32);
  dx = rx * cx + ux * cy - load<f32>(now, 36);
  dy = ry * cx + uy * cy - load<f32>(now, 40);
  dz = rz * cx + uz * cy - load<f32>(now, 44);
  const length = sqrt<f32>(dx * dx + dy * dy + dz * dz);
  const n = f32(1) / length;
  dx *= n; dy *= n; dz *= n;
  ox = load<f32>(now) + rx * lx + ux * ly;
  oy = load<f32>(now, 4) + ry * lx + uy * ly;
  oz = load<f32>(now, 8) + rz * lx + uz * ly;
  // Planes across the axis: the ray's own distance to one is longer by its slant.
  const near = load<f32>(p, P_CLIP_NEAR) * length;
  far = min<f32>(load<f32>(p, P_CLIP_FAR) * length - near, 1e30);
  if (near > 0) { ox += dx * near; oy += dy * near; oz += dz * near; }
}

/** Distance along the camera's axis of a point. */
export function axialDepth(x: f32, y: f32, z: f32): f32 {
  return (load<f32>(now) - x) * load<f32>(now, 36) + (load<f32>(now, 4) - y) * load<f32>(now, 40) + (load<f32>(now, 8) - z) * load<f32>(now, 44);
}

/** The last direction turned into the camera's axes: right, up, back. */
export let toCameraX: f32 = 0;
export let toCameraY: f32 = 0;
export let toCameraZ: f32 = 0;
export function turnToCamera(x: f32, y: f32, z: f32): void {
  toCameraX = x * load<f32>(now, 12) + y * load<f32>(now, 16) + z * load<f32>(now, 20);
  toCameraY = x * load<f32>(now, 24) + y * load<f32>(now, 28) + z * load<f32>(now, 32);
  toCameraZ = x * load<f32>(now, 36) + y * load<f32>(now, 40) + z * load<f32>(now, 44);
}

/** Place in the picture, in pixels right and down, of the last point projected. */
export let pictureX: f32 = 0;
export let pictureY: f32 = 0;

/** Projects a point as the camera sees it at the frame, or at the next one. */
export function project(x: f32, y: f32, z: f32, next: bool): void {
  const p = scratch + SCRATCH_PARAMS;
  const c = scratch + SCRATCH_CAMERA + usize((MOST_CAMERA_STEPS + (next ? 2 : 1)) * CAMERA_BYTES);
  const qx = x - load<f32>(c), qy = y - load<f32>(c, 4), qz = z - load<f32>(c, 8);
  const depth = max<f32>(-(qx * load<f32>(c, 36) + qy * load<f32>(c, 40) + qz * load<f32>(c, 44)), f32(1e-6));
  const sx = (qx * load<f32>(c, 12) + qy * load<f32>(c, 16) + qz * load<f32>(c, 20)) / (depth * load<f32>(p, P_TAN_HALF_X));
  const sy = (qx * load<f32>(c, 24) + qy * load<f32>(c, 28) + qz * load<f32>(c, 32)) / (depth * load<f32>(p, P_TAN_HALF_Y));
  pictureX = (sx - f32(2) * load<f32>(p, P_SHIFT_X) + f32(1)) * f32(0.5) * f32(load<i32>(p, P_WIDTH));
  pictureY = (f32(1) - sy + f32(2) * load<f32>(p, P_SHIFT_Y)) * f32(0.5) * f32(load<i32>(p, P_HEIGHT));
}
