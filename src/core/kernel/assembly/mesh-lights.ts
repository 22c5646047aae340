// Emissive meshes as lights: a triangle by area × luminance, then a place on it.
import {
  H_MESH_LIGHTS, I_TO_LOCAL0, I_TO_WORLD0, L_CUMULATIVE,
  L_FIRST_TRIANGLE, L_INSTANCE, L_TRIANGLES, L_TWO_SIDED, M_EMIT_B, M_EMIT_G, M_EMIT_R, M_OPACITY, SCENE_BASE,
} from './layout';
import { cumulativeStep, searchCumulative } from './environment';
import { lightAt } from './light-records';
import { rowTimes, rowTimesPoint } from './matrices';
import { bentOf, posed } from './poses';
import { infoOf, secondaryRecord } from './rules';
import { materialWithin } from './textures';
import { cornerOf, vertexOf } from './triangles';

/** Light number of an object that emits, −1 of one that does not. */
export function meshLightOf(object: i32): i32 {
  return load<i32>(load<usize>(SCENE_BASE, H_MESH_LIGHTS) + (usize(object) << 2));
}

/** The instance that places a mesh light, as it stands at the path's time; 0 = world. */
function instanceOf(l: usize): usize {
  const instance = load<usize>(l, L_INSTANCE);
  return instance ? posed(instance) : 0;
}

let ax: f32 = 0, ay: f32 = 0, az: f32 = 0;
let ux: f32 = 0, uy: f32 = 0, uz: f32 = 0;
let vx: f32 = 0, vy: f32 = 0, vz: f32 = 0;

/** Loads the corner and edges of a triangle in the world; returns its area. */
function loadTriangle(triangle: i32, instance: usize): f32 {
  const bent = bentOf(triangle, instance);
  const a = cornerOf(vertexOf(triangle, 0), 0, bent), b = cornerOf(vertexOf(triangle, 1), 1, bent), c = cornerOf(vertexOf(triangle, 2), 2, bent);
  ax = load<f32>(a); ay = load<f32>(a, 4); az = load<f32>(a, 8);
  ux = load<f32>(b) - ax; uy = load<f32>(b, 4) - ay; uz = load<f32>(b, 8) - az;
  vx = load<f32>(c) - ax; vy = load<f32>(c, 4) - ay; vz = load<f32>(c, 8) - az;
  if (instance) {
    const m = instance + I_TO_WORLD0;
    let x = ax, y = ay, z = az;
    ax = rowTimesPoint(m, x, y, z); ay = rowTimesPoint(m + 16, x, y, z); az = rowTimesPoint(m + 32, x, y, z);
    x = ux; y = uy; z = uz;
    ux = rowTimes(m, x, y, z); uy = rowTimes(m + 16, x, y, z); uz = rowTimes(m + 32, x, y, z);
    x = vx; y = vy; z = vz;
    vx = rowTimes(m, x, y, z); vy = rowTimes(m + 16, x, y, z); vz = rowTimes(m + 32, x, y, z);
  }
  const nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx;
  return f32(0.5) * sqrt<f32>(nx * nx + ny * ny + nz * nz);
}

/** Density per area with which the place met on `triangle` of a mesh light would be sampled. */
export function meshDensity(light: i32, triangle: i32): f32 {
  const l = lightAt(light);
  const i = triangle - load<i32>(l, L_FIRST_TRIANGLE);
  const area = loadTriangle(triangle, instanceOf(l));
  return area > 0 ? cumulativeStep(load<usize>(l, L_CUMULATIVE), i) / area : f32(0);
}

/** Place last sampled, its normal, its radiance (what its cut-outs take off included) and density per area. */
export let mpx: f32 = 0;
export let mpy: f32 = 0;
export let mpz: f32 = 0;
export let mnx: f32 = 0;
export let mny: f32 = 0;
export let mnz: f32 = 0;
export let mR: f32 = 0;
export let mG: f32 = 0;
export let mB: f32 = 0;
export let mDensity: f32 = 0;
export let mTwoSided: bool = false;

export function sampleMesh(light: i32, u: f32, v: f32): bool {
  const l = lightAt(light);
  const cumulative = load<usize>(l, L_CUMULATIVE);
  const i = searchCumulative(cumulative, load<i32>(l, L_TRIANGLES), u);
  const step = cumulativeStep(cumulative, i);
  if (step <= 0) return false;
  const triangle = load<i32>(l, L_FIRST_TRIANGLE) + i;
  const instance = instanceOf(l);
  const area = loadTriangle(triangle, instance);
  if (area <= 0) return false;
  const rest = min<f32>(max<f32>((u - (load<f32>(cumulative + (usize(i) << 2)) - step)) / step, 0), 1);
  // Even over the triangle [Pharr, Jakob & Humphreys, section 6.5.4].
  const s = sqrt<f32>(rest);
  const b1 = f32(1) - s, b2 = v * s;
  mpx = ax + b1 * ux + b2 * vx; mpy = ay + b1 * uy + b2 * vy; mpz = az + b1 * uz + b2 * vz;
  loadFace(l, triangle, instance, area, b1, b2);
  mDensity = step / area;
  return true;
}

/** The face of a mesh light that a ray has met at (b1, b2): its normal, radiance and density, as if it had been sampled. */
export function meetMesh(light: i32, triangle: i32, b1: f32, b2: f32): void {
  const l = lightAt(light);
  const instance = instanceOf(l);
  const area = loadTriangle(triangle, instance);
  loadFace(l, triangle, instance, area, b1, b2);
  mDensity = cumulativeStep(load<usize>(l, L_CUMULATIVE), triangle - load<i32>(l, L_FIRST_TRIANGLE)) / area;
}

/** Normal and radiance of the triangle last loaded, at (b1, b2). */
function loadFace(l: usize, triangle: i32, instance: usize, area: f32, b1: f32, b2: f32): void {
  mnx = uy * vz - uz * vy; mny = uz * vx - ux * vz; mnz = ux * vy - uy * vx;
  if (instance) {
    // A mirroring instance turns edges' products about; normals go by the transpose of the inverse.
    const n = instance + I_TO_LOCAL0;
    const det = load<f32>(n) * (load<f32>(n, 20) * load<f32>(n, 40) - load<f32>(n, 24) * load<f32>(n, 36)) -
      load<f32>(n, 4) * (load<f32>(n, 16) * load<f32>(n, 40) - load<f32>(n, 24) * load<f32>(n, 32)) +
      load<f32>(n, 8) * (load<f32>(n, 16) * load<f32>(n, 36) - load<f32>(n, 20) * load<f32>(n, 32));
    if (det < 0) { mnx = -mnx; mny = -mny; mnz = -mnz; }
  }
  const k = f32(0.5) / area;
  mnx *= k; mny *= k; mnz *= k;
  const m = materialWithin(secondaryRecord(infoOf(triangle), instance), triangle, b1, b2);
  const opacity = load<f32>(m, M_OPACITY);
  mR = load<f32>(m, M_EMIT_R) * opacity; mG = load<f32>(m, M_EMIT_G) * opacity; mB = load<f32>(m, M_EMIT_B) * opacity;
  mTwoSided = load<i32>(l, L_TWO_SIDED) != 0;
}
