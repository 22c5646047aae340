// What stands in a light's record: its group, whom it lights, in which role and how far.
import {
  H_LIGHTS, H_LIGHT_COUNT, H_LIGHT_POSES, H_MOVING_LIGHTS, KIND_DISTANT, KIND_ENVIRONMENT, LIGHT_BYTES, LIGHT_MOMENT_BYTES, LIGHT_MOMENT_TIME,
  LIGHT_POSE_BYTES, LP_LIGHT, LP_MOMENTS, LP_STEPS, L_AREA, L_BOUNCES, L_GAIN_SEEN, L_GROUP, L_HALF_U, L_HALF_V, L_INNER_COSINE, L_KIND, L_LINKS, L_NX, L_NY, L_NZ,
  L_OUTER_COSINE, L_RADIUS, L_SAMPLES, L_UX, L_UY, L_UZ, L_VISIBLE, L_VX, L_VY, L_VZ, L_X, SCENE_BASE,
} from './layout';
import { between, step, way } from './poses';

export const SEEN: i32 = 0;
export const IN_MIRRORS: i32 = 1;
export const ON_DIFFUSE: i32 = 2;
export const IN_REFLECTION: i32 = 3;
export const THROUGH: i32 = 4;
export const IN_FOG: i32 = 5;

/** Records of all lights: the scene's own, or where some move the thread's copy of them as they stand. */
let records: usize = 0;
let moving: i32 = 0;

/** Takes the lights as they are; where some move, copies them to `to`. */
export function bindLights(to: usize): void {
  const own = load<usize>(SCENE_BASE, H_LIGHTS);
  moving = load<i32>(SCENE_BASE, H_MOVING_LIGHTS);
  records = moving ? to : own;
  if (moving) memory.copy(to, own, usize(load<i32>(SCENE_BASE, H_LIGHT_COUNT)) * LIGHT_BYTES);
}

// @ts-ignore: decorator
@inline
export function lightAt(i: i32): usize {
  return records + usize(i) * LIGHT_BYTES;
}

/** Places the lights that move as they stand at the path's time. */
// @ts-ignore: decorator
@inline
export function placeLights(): void {
  for (let k = 0; k < moving; k++) place(load<usize>(SCENE_BASE, H_LIGHT_POSES) + usize(k) * LIGHT_POSE_BYTES);
}

function place(pose: usize): void {
  const l = lightAt(load<i32>(pose, LP_LIGHT));
  const moments = load<usize>(pose, LP_MOMENTS);
  between(moments + LIGHT_MOMENT_TIME, LIGHT_MOMENT_BYTES, load<i32>(pose, LP_STEPS));
  const m = moments + usize(step) * LIGHT_MOMENT_BYTES;
  for (let i: usize = 0; i < usize(LIGHT_MOMENT_TIME); i += 4) {
    const v = load<f32>(m + i);
    store<f32>(l + i, v + (load<f32>(m + i, LIGHT_MOMENT_BYTES) - v) * way, L_X);
  }
  const halfU = load<f32>(l, L_HALF_U), radius = load<f32>(l, L_RADIUS);
  if (load<f32>(l, L_AREA) > 0)
    store<f32>(l, halfU > 0 ? f32(4) * halfU * load<f32>(l, L_HALF_V) : f32(Math.PI) * radius * radius, L_AREA);
  // Between moments axes go straight: they are made square and of length 1 again.
  let nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ);
  let k = f32(1) / sqrt<f32>(nx * nx + ny * ny + nz * nz);
  nx *= k; ny *= k; nz *= k;
  let ux = load<f32>(l, L_UX), uy = load<f32>(l, L_UY), uz = load<f32>(l, L_UZ);
  const d = ux * nx + uy * ny + uz * nz;
  ux -= d * nx; uy -= d * ny; uz -= d * nz;
  k = f32(1) / sqrt<f32>(ux * ux + uy * uy + uz * uz);
  ux *= k; uy *= k; uz *= k;
  store<f32>(l, nx, L_NX); store<f32>(l, ny, L_NY); store<f32>(l, nz, L_NZ);
  store<f32>(l, ux, L_UX); store<f32>(l, uy, L_UY); store<f32>(l, uz, L_UZ);
  store<f32>(l, ny * uz - nz * uy, L_VX); store<f32>(l, nz * ux - nx * uz, L_VY); store<f32>(l, nx * uy - ny * ux, L_VZ);
}

// @ts-ignore: decorator
@inline
export function kindOf(l: usize): i32 {
  return i32(load<f32>(l, L_KIND));
}

export function groupOf(light: i32): i32 {
  return i32(load<f32>(lightAt(light), L_GROUP));
}

/** Samples of its own that a light gets at every vertex; 0 shares those of all. */
// @ts-ignore: decorator
@inline
export function ownSamples(light: i32): i32 {
  return load<i32>(lightAt(light), L_SAMPLES);
}

// @ts-ignore: decorator
@inline
export function gainOf(light: i32, role: i32): f32 {
  return load<f32>(lightAt(light) + (usize(role) << 2), L_GAIN_SEEN);
}

/** Whether light from here may be gathered at `object` after `bounce` bounces. */
export function lights(light: i32, object: i32, bounce: i32): bool {
  const l = lightAt(light);
  if (bounce > load<i32>(l, L_BOUNCES)) return false;
  const links = load<usize>(l, L_LINKS);
  return !links || ((load<u32>(links + (usize(object >> 5) << 2)) >> (object & 31)) & 1) != 0;
}

/** Whether light may be seen after `bounce` bounces, whatever sees it. */
export function reaches(light: i32, bounce: i32): bool {
  return bounce <= load<i32>(lightAt(light), L_BOUNCES);
}

/** Whether rays that look at the scene can meet the light; one they cannot is found by sampling it alone. */
export function canBeMet(light: i32): bool {
  const l = lightAt(light);
  const kind = kindOf(l);
  if (kind == KIND_DISTANT) return load<f32>(l, L_VISIBLE) != 0 && load<f32>(l, L_RADIUS) > 0;
  return load<f32>(l, L_VISIBLE) != 0 || kind == KIND_ENVIRONMENT;
}

/** How much of its light goes in a direction of this cosine to its axis: fading within a spread or cone. */
export function fadeOf(l: usize, cosine: f32): f32 {
  const outer = load<f32>(l, L_OUTER_COSINE);
  if (outer <= -1) return 1;
  const inner = load<f32>(l, L_INNER_COSINE);
  if (inner <= outer) return cosine > outer ? f32(1) : f32(0);
  const t = min<f32>(max<f32>((cosine - outer) / (inner - outer), 0), 1);
  return t * t * (f32(3) - f32(2) * t);
}
