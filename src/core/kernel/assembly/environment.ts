// The environment: a picture all around, sampled by its luminance and, where there are portals, through them.
import { angleOf, cosine, sine, turn } from './angles';
import {
  ENV_CUTS, ENV_PIXEL_BYTES, E_CUMULATIVE, H_ENV_CUTS, H_ENV_HEIGHT, H_ENV_LIGHT, H_ENV_MARGINAL, H_ENV_PIXELS, H_ENV_ROWS, H_ENV_SHIFT, H_ENV_WIDTH, H_PORTALS, H_PORTAL_COUNT,
  PORTAL_BYTES, SCENE_BASE, W_HALF_U, W_HALF_V, W_NX, W_NY, W_NZ, W_UX, W_UY, W_UZ, W_VX, W_VY, W_VZ, W_X, W_Y, W_Z,
} from './layout';

const TWO_PI: f32 = f32(2 * Math.PI);
const PI: f32 = f32(Math.PI);

export function environmentLight(): i32 {
  return load<i32>(SCENE_BASE, H_ENV_LIGHT);
}

let lastX: f32 = 0, lastY: f32 = 0, lastZ: f32 = 0;
let lastPixel: i32 = -1;

/**
 * Pixel of the environment picture in direction d: u = ½ + atan2(x, −z)/2π and the shift, v = atan2(√(x² + z²), y)/π. The last answer is kept,
 * since what is seen is often weighed next.
 */
function envPixel(dx: f32, dy: f32, dz: f32): i32 {
  if (lastPixel >= 0 && dx == lastX && dy == lastY && dz == lastZ) return lastPixel;
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH), h = load<i32>(SCENE_BASE, H_ENV_HEIGHT);
  const u = f32(0.5) + angleOf(dx, -dz) / TWO_PI;
  const v = angleOf(sqrt<f32>(dx * dx + dz * dz), dy) / PI;
  let x = max(i32(u * f32(w) + load<f32>(SCENE_BASE, H_ENV_SHIFT)), 0);
  // Past the last column comes the first.
  if (x >= w) x = load<f32>(SCENE_BASE, H_ENV_SHIFT) > 0 ? x - w : w - 1;
  const y = min(max(i32(v * f32(h)), 0), h - 1);
  lastX = dx; lastY = dy; lastZ = dz;
  lastPixel = y * w + x;
  return lastPixel;
}

/** Forgets what was kept of another scene. */
export function bindEnvironment(): void {
  lastPixel = -1;
}

/** Radiance of the environment in the direction last asked for, or last sampled. */
export let envR: f32 = 0;
export let envG: f32 = 0;
export let envB: f32 = 0;

/** The record of pixel i, row after row. */
// @ts-ignore: decorator
@inline
function pixelAt(i: i32): usize {
  return load<usize>(SCENE_BASE, H_ENV_PIXELS) + usize(i) * ENV_PIXEL_BYTES;
}

function loadPixel(i: i32): void {
  const at = pixelAt(i);
  envR = load<f32>(at); envG = load<f32>(at, 4); envB = load<f32>(at, 8);
}

export function environmentRadiance(dx: f32, dy: f32, dz: f32): void {
  loadPixel(envPixel(dx, dy, dz));
}

/** First index whose cumulative value exceeds u, in `count` ascending floats ending in 1. */
export function searchCumulative(at: usize, count: i32, u: f32): i32 {
  let lo = 0, hi = count - 1;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (load<f32>(at + (usize(mid) << 2)) > u) hi = mid; else lo = mid + 1;
  }
  return lo;
}

// @ts-ignore: decorator
@inline
export function cumulativeStep(at: usize, i: i32): f32 {
  const hi = load<f32>(at + (usize(i) << 2));
  return i == 0 ? hi : hi - load<f32>(at + (usize(i - 1) << 2));
}

/** Probability of the pixel within its row. */
// @ts-ignore: decorator
@inline
function columnStep(pixel: usize, x: i32): f32 {
  const hi = load<f32>(pixel, E_CUMULATIVE);
  return x == 0 ? hi : hi - load<f32>(pixel - ENV_PIXEL_BYTES, E_CUMULATIVE);
}

function pixelDensity(i: i32): f32 {
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH);
  const y = i / w;
  return load<f32>(load<usize>(SCENE_BASE, H_ENV_ROWS) + (usize(y) << 4), 8) * columnStep(pixelAt(i), i - y * w);
}

/** Density of portal sampling in direction d from (x, y, z): the mean over all portals the ray goes through. */
function portalDensity(count: i32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): f32 {
  let sum: f32 = 0;
  for (let i = 0; i < count; i++) {
    const p = load<usize>(SCENE_BASE, H_PORTALS) + usize(i) * PORTAL_BYTES;
    const nx = load<f32>(p, W_NX), ny = load<f32>(p, W_NY), nz = load<f32>(p, W_NZ);
    const cosine = -(dx * nx + dy * ny + dz * nz);
    if (cosine <= f32(1e-6)) continue;
    const ex = x - load<f32>(p, W_X), ey = y - load<f32>(p, W_Y), ez = z - load<f32>(p, W_Z);
    const t = (ex * nx + ey * ny + ez * nz) / cosine;
    if (t <= 0) continue;
    const qx = ex + t * dx, qy = ey + t * dy, qz = ez + t * dz;
    const hu = load<f32>(p, W_HALF_U), hv = load<f32>(p, W_HALF_V);
    if (abs(qx * load<f32>(p, W_UX) + qy * load<f32>(p, W_UY) + qz * load<f32>(p, W_UZ)) > hu) continue;
    if (abs(qx * load<f32>(p, W_VX) + qy * load<f32>(p, W_VY) + qz * load<f32>(p, W_VZ)) > hv) continue;
    sum += t * t / (cosine * f32(4) * hu * hv);
  }
  return sum / f32(count);
}

/** Solid-angle density with which the environment would be sampled from (x, y, z) in direction d. */
export function environmentDensity(x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): f32 {
  const p = pixelDensity(envPixel(dx, dy, dz));
  const portals = load<i32>(SCENE_BASE, H_PORTAL_COUNT);
  return portals == 0 ? p : f32(0.5) * (p + portalDensity(portals, x, y, z, dx, dy, dz));
}

/** Direction last sampled and its density. */
export let envX: f32 = 0;
export let envY: f32 = 1;
export let envZ: f32 = 0;
export let envDensity: f32 = 0;

/** Samples a direction from (x, y, z) with (u, v); false when nothing can come from there. */
export function sampleEnvironment(x: f32, y: f32, z: f32, u: f32, v: f32): bool {
  const portals = load<i32>(SCENE_BASE, H_PORTAL_COUNT);
  if (portals == 0) return sampleLuminance(u, v);
  if (u < f32(0.5)) {
    if (!sampleLuminance(u * f32(2), v)) return false;
    envDensity = f32(0.5) * (envDensity + portalDensity(portals, x, y, z, envX, envY, envZ));
    return true;
  }
  const s = (u * f32(2) - f32(1)) * f32(portals);
  const k = min(i32(s), portals - 1);
  const p = load<usize>(SCENE_BASE, H_PORTALS) + usize(k) * PORTAL_BYTES;
  const a = ((s - f32(k)) * f32(2) - f32(1)) * load<f32>(p, W_HALF_U), b = (v * f32(2) - f32(1)) * load<f32>(p, W_HALF_V);
  let dx = load<f32>(p, W_X) + a * load<f32>(p, W_UX) + b * load<f32>(p, W_VX) - x;
  let dy = load<f32>(p, W_Y) + a * load<f32>(p, W_UY) + b * load<f32>(p, W_VY) - y;
  let dz = load<f32>(p, W_Z) + a * load<f32>(p, W_UZ) + b * load<f32>(p, W_VZ) - z;
  const l = sqrt<f32>(dx * dx + dy * dy + dz * dz);
  if (l < f32(1e-6)) return false;
  dx /= l; dy /= l; dz /= l;
  if (dx * load<f32>(p, W_NX) + dy * load<f32>(p, W_NY) + dz * load<f32>(p, W_NZ) >= f32(-1e-6)) return false;
  envX = dx; envY = dy; envZ = dz;
  environmentRadiance(dx, dy, dz);
  envDensity = environmentDensity(x, y, z, dx, dy, dz);
  return envDensity > 0;
}

/** The same of values so many bytes apart, from where the cut of u says that it cannot be before. */
// @ts-ignore: decorator
@inline
function searchCut(cuts: usize, at: usize, apart: usize, count: i32, u: f32): i32 {
  let i = i32(load<u16>(cuts + (usize(i32(u * f32(ENV_CUTS))) << 1)));
  while (i < count - 1 && load<f32>(at + usize(i) * apart) <= u) i++;
  return i;
}

function sampleLuminance(u: f32, v: f32): bool {
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH), h = load<i32>(SCENE_BASE, H_ENV_HEIGHT);
  const marginal = load<usize>(SCENE_BASE, H_ENV_MARGINAL);
  const cuts = load<usize>(SCENE_BASE, H_ENV_CUTS);
  const y = searchCut(cuts, marginal, 4, h, v);
  const x = searchCut(cuts + usize((y + 1) * ENV_CUTS * 2), pixelAt(y * w) + E_CUMULATIVE, ENV_PIXEL_BYTES, w, u);
  const pixel = pixelAt(y * w + x);
  const pv = cumulativeStep(marginal, y), pu = columnStep(pixel, x);
  if (pv <= 0 || pu <= 0) return false;
  const fv = (v - (load<f32>(marginal + (usize(y) << 2)) - pv)) / pv;
  const fu = (u - (load<f32>(pixel, E_CUMULATIVE) - pu)) / pu;
  const edges = load<usize>(SCENE_BASE, H_ENV_ROWS) + (usize(y) << 4);
  const c0 = load<f32>(edges), c1 = load<f32>(edges, 4);
  const up = c0 + (c1 - c0) * min<f32>(max<f32>(fv, 0), 1);
  const out = sqrt<f32>(max<f32>(f32(1) - up * up, 0));
  const column = f32(x) + min<f32>(max<f32>(fu, f32(0.0001)), f32(0.9999)) - load<f32>(SCENE_BASE, H_ENV_SHIFT);
  turn(column / f32(w) - f32(0.5));
  envX = out * sine;
  envY = up;
  envZ = -out * cosine;
  envDensity = load<f32>(edges, 8) * pu;
  loadPixel(y * w + x);
  return envDensity > 0;
}
