// Data about the first hit: means over the samples, and values of the sample nearest to its pixel's centre.
import { cosine, lean, leantX, leantY, leantZ, sine, turn } from './angles';
import { occluded } from './bvh-trace';
import { axialDepth, ox as camX, oy as camY, oz as camZ, pictureX, pictureY, project, toCameraX, toCameraY, toCameraZ, turnToCamera } from './camera';
import { addAt, addColor, countRay, countUnmasked, planeAt } from './film';
import { PAIR_LIGHT, pairAt, stream } from './gather';
import {
  COVERAGE_SLOTS, M_ROUGHNESS, OCCLUSION_FIRST_METRES, OCCLUSION_RATIO, OCCLUSION_REACHES, PLANE_BYTES, P_OCCLUSION_COSINE, P_OCCLUSION_RAYS, P_OCCLUSION_REACH, P_PLANE_ALBEDO, P_PLANE_ALPHA,
  P_PLANE_COVERAGE, P_PLANE_DEPTH, P_PLANE_DISTANCE, P_PLANE_MOTION, P_PLANE_NEAR, P_PLANE_NORMAL, P_PLANE_NORMAL_CAMERA,
  P_PLANE_NORMAL_GEOMETRIC, P_PLANE_OCCLUSION, P_PLANE_POSITION, P_PLANE_ROUGHNESS, P_PLANE_UV, RAY_OCCLUSION, SCRATCH_PARAMS,
} from './layout';
import { featureAlbedo } from './material';
import { nextX, nextY, nextZ, nowX, nowY, nowZ, traceMotion } from './poses';
import { draw, hash, r0, r1 } from './sobol';
import { epsilon, gx, gy, gz, material, nx, ny, nz, objectIndex, px, py, pz, textureU, textureV } from './vertex';

let planeNear: i32 = -1, planeAlpha: i32 = -1, planeDepth: i32 = -1, planeDistance: i32 = -1, planePosition: i32 = -1, planeUv: i32 = -1;
let planeMotion: i32 = -1, planeNormal: i32 = -1, planeGeometric: i32 = -1, planeCamera: i32 = -1, planeAlbedo: i32 = -1;
let planeRoughness: i32 = -1, planeCoverage: i32 = -1, planeOcclusion: i32 = -1;
let occlusionRays: i32 = 0;
let occlusionCosine: f32 = 0, occlusionReach: f32 = 0;

export function bindFeatures(base: usize): void {
  const p = base + SCRATCH_PARAMS;
  planeNear = load<i32>(p, P_PLANE_NEAR);
  planeAlpha = load<i32>(p, P_PLANE_ALPHA);
  planeDepth = load<i32>(p, P_PLANE_DEPTH);
  planeDistance = load<i32>(p, P_PLANE_DISTANCE);
  planePosition = load<i32>(p, P_PLANE_POSITION);
  planeUv = load<i32>(p, P_PLANE_UV);
  planeMotion = load<i32>(p, P_PLANE_MOTION);
  planeNormal = load<i32>(p, P_PLANE_NORMAL);
  planeGeometric = load<i32>(p, P_PLANE_NORMAL_GEOMETRIC);
  planeCamera = load<i32>(p, P_PLANE_NORMAL_CAMERA);
  planeAlbedo = load<i32>(p, P_PLANE_ALBEDO);
  planeRoughness = load<i32>(p, P_PLANE_ROUGHNESS);
  planeCoverage = load<i32>(p, P_PLANE_COVERAGE);
  planeOcclusion = load<i32>(p, P_PLANE_OCCLUSION);
  occlusionRays = load<i32>(p, P_OCCLUSION_RAYS);
  occlusionCosine = load<f32>(p, P_OCCLUSION_COSINE);
  occlusionReach = load<f32>(p, P_OCCLUSION_REACH);
}

/** Whether data are taken from a sample this far (squared) from the centre: it is the nearest so far, the first among equals. */
function isNearest(off2: f32): bool {
  if (planeNear < 0) return false;
  // One is added, so that 0 = none yet.
  const at = planeAt(planeNear), best = load<f32>(at);
  if (best != 0 && off2 + f32(1) >= best) return false;
  store<f32>(at, off2 + f32(1));
  return true;
}

// @ts-ignore: decorator
@inline
function put(plane: i32, value: f32): void {
  store<f32>(planeAt(plane), value);
}

function putDistances(depth: f32, distance: f32): void {
  if (planeDepth >= 0) put(planeDepth, depth);
  if (planeDistance >= 0) put(planeDistance, distance);
}

function putPlace(x: f32, y: f32, z: f32, u: f32, v: f32, motionX: f32, motionY: f32): void {
  if (planePosition >= 0) { put(planePosition, x); put(planePosition + 1, y); put(planePosition + 2, z); }
  if (planeUv >= 0) { put(planeUv, u); put(planeUv + 1, v); }
  if (planeMotion >= 0) { put(planeMotion, motionX); put(planeMotion + 1, motionY); }
}

function cover(object: i32): void {
  if (planeCoverage < 0) return;
  const id = f32(object + 1);
  let at = planeAt(planeCoverage);
  for (let slot = 0; slot < COVERAGE_SLOTS; slot++) {
    const here = load<f32>(at);
    if (here == id || here == 0) {
      store<f32>(at, id);
      store<f32>(at, load<f32>(at, PLANE_BYTES) + f32(1), PLANE_BYTES);
      return;
    }
    at += 2 * PLANE_BYTES;
  }
  countUnmasked();
}

/** Records a sample that met no surface: infinitely far, or a light's shape of number `object` at (x, y, z). */
export function recordNoSurface(off2: f32, object: i32, shape: bool, x: f32, y: f32, z: f32, distance: f32): void {
  if (shape) {
    if (planeAlpha >= 0) addAt(planeAlpha, 1);
    cover(object);
  }
  if (!isNearest(off2)) return;
  putDistances(shape ? axialDepth(x, y, z) : f32(Infinity), shape ? distance : f32(Infinity));
  if (shape) putPlace(x, y, z, 0, 0, 0, 0);
  else putPlace(0, 0, 0, 0, 0, 0, 0);
}

/** Records the surface loaded as vertex, met on a triangle at (u, v); alpha counts it when `opaque`. */
export function recordSurface(off2: f32, index: u32, opaque: bool, instance: usize, triangle: i32, u: f32, v: f32): void {
  if (planeAlpha >= 0 && opaque) addAt(planeAlpha, 1);
  if (planeNormal >= 0) addColor(planeNormal, nx, ny, nz);
  if (planeGeometric >= 0) addColor(planeGeometric, gx, gy, gz);
  if (planeCamera >= 0) {
    turnToCamera(nx, ny, nz);
    addColor(planeCamera, toCameraX, toCameraY, toCameraZ);
  }
  if (planeAlbedo >= 0) addColor(planeAlbedo, featureAlbedo(0), featureAlbedo(1), featureAlbedo(2));
  if (planeRoughness >= 0) addAt(planeRoughness, load<f32>(material, M_ROUGHNESS));
  if (planeOcclusion >= 0) lookAbout(index);
  cover(objectIndex);
  if (!isNearest(off2)) return;
  const x = px - camX, y = py - camY, z = pz - camZ;
  putDistances(axialDepth(px, py, pz), sqrt<f32>(x * x + y * y + z * z));
  let motionX: f32 = 0, motionY: f32 = 0;
  if (planeMotion >= 0) {
    traceMotion(instance, triangle, u, v, px, py, pz);
    project(nowX, nowY, nowZ, false);
    const fromX = pictureX, fromY = pictureY;
    project(nextX, nextY, nextZ, true);
    motionX = pictureX - fromX;
    motionY = pictureY - fromY;
  }
  putPlace(px, py, pz, textureU, textureV, motionX, motionY);
}

/** The reach of a band of occlusion in metres. */
function reachOf(band: i32): f32 {
  let metres: f32 = OCCLUSION_FIRST_METRES;
  for (let b = 0; b < band; b++) metres *= OCCLUSION_RATIO;
  return metres;
}

/** Sends rays about the shading normal, by the cosine, and keeps what share of them is blocked up to which reach, or not at all. */
function lookAbout(index: u32): void {
  const own = hash(stream ^ 0x3c6ef372);
  const share = f32(1) / f32(max(occlusionRays, 1));
  const ox = px + gx * epsilon, oy = py + gy * epsilon, oz = pz + gz * epsilon;
  for (let j = 0; j < occlusionRays; j++) {
    draw(own, index * u32(occlusionRays) + u32(j), pairAt(0, PAIR_LIGHT));
    // Even in the squared sine up to the spread: cosine-weighted within the cone.
    const out2 = r0 * (f32(1) - occlusionCosine * occlusionCosine), out = sqrt<f32>(out2);
    turn(r1);
    lean(nx, ny, nz, out * cosine, out * sine, sqrt<f32>(f32(1) - out2));
    const dx = leantX, dy = leantY, dz = leantZ;
    countRay(RAY_OCCLUSION);
    let band = 0;
    if (dx * gx + dy * gy + dz * gz > 0) {
      band = OCCLUSION_REACHES + 1;
      if (occluded(ox, oy, oz, dx, dy, dz, 0, occlusionReach)) {
        // Asked for each reach anew: what it meets first may be a pane that lets it through.
        band = 0;
        let beyond = OCCLUSION_REACHES;
        while (band < beyond) {
          const middle = (band + beyond) >> 1;
          countRay(RAY_OCCLUSION);
          if (occluded(ox, oy, oz, dx, dy, dz, 0, reachOf(middle))) beyond = middle;
          else band = middle + 1;
        }
      }
    }
    addAt(planeOcclusion + band, share);
  }
}
