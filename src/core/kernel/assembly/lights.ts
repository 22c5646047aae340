// Sampling a direction to a light, and the density of that.
import { cosine, lean, leantX, leantY, leantZ, sine, turn } from './angles';
import {
  environmentDensity, environmentRadiance, envB, envDensity, envG, envR, envX, envY, envZ, sampleEnvironment,
} from './environment';
import {
  H_FAR_COUNT, H_FAR_LIGHTS, KIND_DISTANT, KIND_ENVIRONMENT, KIND_MESH, KIND_POINT,
  KIND_RECTANGLE, KIND_SPHERE, KIND_SPOT, L_APEX, L_AREA, L_HALF_U, L_HALF_V, L_NX, L_NY, L_NZ, L_OUTER_COSINE, L_RADIANCE_B, L_RADIANCE_G, L_RADIANCE_R,
  L_RADIUS, L_UX, L_UY, L_UZ, L_VISIBLE, L_VX, L_VY, L_VZ, L_X, L_Y, L_Z, SCENE_BASE,
} from './layout';
import { chanceOf } from './light-choice';
import { fadeOf, kindOf, lightAt, ownSamples } from './light-records';
import { meetShape } from './light-shapes';
import {
  mB, mDensity, mG, mR, mTwoSided, meshDensity, mnx, mny, mnz, mpx, mpy, mpz, sampleMesh,
} from './mesh-lights';

const TWO_PI: f32 = f32(2 * Math.PI);

/** Radiance of the last light asked for. */
export let lr: f32 = 0;
export let lg: f32 = 0;
export let lb: f32 = 0;

/** Takes radiance found elsewhere as that of the last light. */
export function setLight(r: f32, g: f32, b: f32): void {
  lr = r; lg = g; lb = b;
}

// @ts-ignore: decorator
@inline
function setRadiance(l: usize, k: f32): void {
  lr = load<f32>(l, L_RADIANCE_R) * k; lg = load<f32>(l, L_RADIANCE_G) * k; lb = load<f32>(l, L_RADIANCE_B) * k;
}

/** Radiance that shape `light` sends against the direction d: of flat ones from the front only. */
export function radianceOf(light: i32, dx: f32, dy: f32, dz: f32): void {
  const l = lightAt(light);
  if (kindOf(l) == KIND_SPHERE) { setRadiance(l, 1); return; }
  const cosine = -(dx * load<f32>(l, L_NX) + dy * load<f32>(l, L_NY) + dz * load<f32>(l, L_NZ));
  setRadiance(l, cosine <= 0 ? f32(0) : fadeOf(l, cosine));
}

/** How many lights have no place, and the number of the k-th. */
export function farCount(): i32 {
  return load<i32>(SCENE_BASE, H_FAR_COUNT);
}
export function farLight(k: i32): i32 {
  return load<i32>(load<usize>(SCENE_BASE, H_FAR_LIGHTS) + (usize(k) << 2));
}

/** Radiance of a light without a place seen in direction d; false when it is not there. */
export function farRadiance(light: i32, dx: f32, dy: f32, dz: f32): bool {
  const l = lightAt(light);
  if (kindOf(l) == KIND_ENVIRONMENT) {
    environmentRadiance(dx, dy, dz);
    lr = envR; lg = envG; lb = envB;
    return lr + lg + lb > 0;
  }
  const s = load<f32>(l, L_RADIUS);
  if (s <= 0 || load<f32>(l, L_VISIBLE) == 0) return false;
  const nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ);
  if (dx * nx + dy * ny + dz * nz >= 0) return false;
  // By the sine, which keeps its digits for small discs.
  const cx = dy * nz - dz * ny, cy = dz * nx - dx * nz, cz = dx * ny - dy * nx;
  if (cx * cx + cy * cy + cz * cz > s * s) return false;
  setRadiance(l, 1);
  return true;
}

/** 1 − cos of the half angle whose squared sine is s2, kept accurate for small angles. */
// @ts-ignore: decorator
@inline
function capHeight(s2: f32): f32 {
  return s2 < f32(1e-3) ? s2 * f32(0.5) * (f32(1) + s2 * f32(0.25)) : f32(1) - sqrt<f32>(max<f32>(f32(1) - s2, 0));
}

/** The light sample last drawn: direction, distance, radiance (in lr, lg, lb) and density; 1 for lights without size. */
export let sx: f32 = 0;
export let sy: f32 = 0;
export let sz: f32 = 0;
export let sDistance: f32 = 0;
export let sPdf: f32 = 0;

/** A direction within a cap about the unit w, even in solid angle. */
function sampleCap(wx: f32, wy: f32, wz: f32, cap: f32, u: f32, v: f32): f32 {
  const cosT = f32(1) - u * cap;
  const sinT = sqrt<f32>(max<f32>(u * cap * (f32(2) - u * cap), 0));
  turn(v);
  lean(wx, wy, wz, sinT * cosine, sinT * sine, cosT);
  sx = leantX; sy = leantY; sz = leantZ;
  return cosT;
}

/** Draws a direction from (x, y, z) to `light` with (u, v); its density is `chance` times that of the light alone. */
export function sampleLight(light: i32, chance: f32, x: f32, y: f32, z: f32, u: f32, v: f32): bool {
  const l = lightAt(light);
  const kind = kindOf(l);
  if (kind == KIND_ENVIRONMENT) {
    if (!sampleEnvironment(x, y, z, u, v)) return false;
    sx = envX; sy = envY; sz = envZ;
    sDistance = f32(1e30);
    sPdf = chance * envDensity;
    lr = envR; lg = envG; lb = envB;
    return true;
  }
  if (kind == KIND_DISTANT) {
    const s = load<f32>(l, L_RADIUS);
    const wx = -load<f32>(l, L_NX), wy = -load<f32>(l, L_NY), wz = -load<f32>(l, L_NZ);
    sDistance = f32(1e30);
    setRadiance(l, 1);
    if (s <= 0) {
      sx = wx; sy = wy; sz = wz;
      sPdf = chance;
      return true;
    }
    const cap = capHeight(s * s);
    sampleCap(wx, wy, wz, cap, u, v);
    sPdf = chance / (TWO_PI * cap);
    return true;
  }
  if (kind == KIND_SPHERE) return sampleSphere(l, chance, x, y, z, u, v);
  if (kind == KIND_MESH) {
    if (!sampleMesh(light, u, v)) return false;
    if (!aim(x, y, z, mpx, mpy, mpz)) return false;
    let cosine = -(sx * mnx + sy * mny + sz * mnz);
    if (mTwoSided) cosine = abs(cosine);
    if (cosine <= f32(1e-6)) return false;
    sPdf = chance * mDensity * sDistance * sDistance / cosine;
    lr = mR; lg = mG; lb = mB;
    return true;
  }
  if (kind == KIND_SPOT || kind == KIND_POINT) {
    if (!aim(x, y, z, load<f32>(l, L_X), load<f32>(l, L_Y), load<f32>(l, L_Z))) return false;
    const k = kind == KIND_POINT ? f32(1) : fadeOf(l, -(sx * load<f32>(l, L_NX) + sy * load<f32>(l, L_NY) + sz * load<f32>(l, L_NZ)));
    if (k <= 0) return false;
    setRadiance(l, k / (sDistance * sDistance));
    sPdf = chance;
    return true;
  }
  if (isSampledByCone(l, x, y, z)) return sampleCone(l, chance, x, y, z, u, v);
  let a: f32, b: f32;
  if (kind == KIND_RECTANGLE) {
    a = (u * f32(2) - f32(1)) * load<f32>(l, L_HALF_U);
    b = (v * f32(2) - f32(1)) * load<f32>(l, L_HALF_V);
  } else {
    const r = sqrt<f32>(u) * load<f32>(l, L_RADIUS);
    turn(v);
    a = r * cosine;
    b = r * sine;
  }
  if (!aim(x, y, z,
    load<f32>(l, L_X) + a * load<f32>(l, L_UX) + b * load<f32>(l, L_VX),
    load<f32>(l, L_Y) + a * load<f32>(l, L_UY) + b * load<f32>(l, L_VY),
    load<f32>(l, L_Z) + a * load<f32>(l, L_UZ) + b * load<f32>(l, L_VZ))) return false;
  const cosine = -(sx * load<f32>(l, L_NX) + sy * load<f32>(l, L_NY) + sz * load<f32>(l, L_NZ));
  if (cosine <= f32(1e-6)) return false;
  const k = fadeOf(l, cosine);
  if (k <= 0) return false;
  sPdf = chance * sDistance * sDistance / (cosine * load<f32>(l, L_AREA));
  setRadiance(l, k);
  return true;
}

/**
 * Whether a flat light whose spread is narrow is sampled by direction: where its cone of light is narrower than the
 * light itself, few places on it send any.
 */
function isSampledByCone(l: usize, x: f32, y: f32, z: f32): bool {
  const c = load<f32>(l, L_OUTER_COSINE);
  if (c <= -1) return false;
  const nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ);
  const front = (x - load<f32>(l, L_X)) * nx + (y - load<f32>(l, L_Y)) * ny + (z - load<f32>(l, L_Z)) * nz;
  return front < load<f32>(l, L_APEX);
}

/** A direction within the spread that leads to the light; false when it passes by. */
function sampleCone(l: usize, chance: f32, x: f32, y: f32, z: f32, u: f32, v: f32): bool {
  const c = load<f32>(l, L_OUTER_COSINE);
  const nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ);
  sampleCap(-nx, -ny, -nz, f32(1) - c, u, v);
  sDistance = meetShape(l, x, y, z, sx, sy, sz, f32(1e-6));
  if (sDistance <= 0) return false;
  const cosine = -(sx * nx + sy * ny + sz * nz);
  const k = fadeOf(l, cosine);
  if (k <= 0) return false;
  sPdf = chance / (TWO_PI * (f32(1) - c));
  setRadiance(l, k);
  return true;
}

/** Points the sample from (x, y, z) at a place. */
function aim(x: f32, y: f32, z: f32, qx: f32, qy: f32, qz: f32): bool {
  sx = qx - x; sy = qy - y; sz = qz - z;
  sDistance = sqrt<f32>(sx * sx + sy * sy + sz * sz);
  if (sDistance < f32(1e-6)) return false;
  sx /= sDistance; sy /= sDistance; sz /= sDistance;
  return true;
}

function sampleSphere(l: usize, chance: f32, x: f32, y: f32, z: f32, u: f32, v: f32): bool {
  const cx = load<f32>(l, L_X) - x, cy = load<f32>(l, L_Y) - y, cz = load<f32>(l, L_Z) - z;
  const r = load<f32>(l, L_RADIUS);
  const d2 = cx * cx + cy * cy + cz * cz;
  if (d2 <= r * r * f32(1.0001)) return false;
  const d = sqrt<f32>(d2);
  const cap = capHeight(r * r / d2);
  const along = d * sampleCap(cx / d, cy / d, cz / d, cap, u, v);
  sDistance = max<f32>(along - sqrt<f32>(max<f32>(r * r - (d2 - along * along), 0)), 0);
  sPdf = chance / (TWO_PI * cap);
  setRadiance(l, 1);
  return true;
}

/** Density with which a light alone would be sampled from (x, y, z) in direction d; t and triangle tell what was met. */
export function ownDensity(light: i32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, t: f32, triangle: i32, cosine: f32): f32 {
  const l = lightAt(light);
  const kind = kindOf(l);
  if (kind == KIND_ENVIRONMENT) return environmentDensity(x, y, z, dx, dy, dz);
  if (kind == KIND_DISTANT) {
    const s = load<f32>(l, L_RADIUS);
    return f32(1) / (TWO_PI * capHeight(s * s));
  }
  if (kind == KIND_SPHERE) {
    const cx = load<f32>(l, L_X) - x, cy = load<f32>(l, L_Y) - y, cz = load<f32>(l, L_Z) - z;
    const r = load<f32>(l, L_RADIUS);
    const d2 = cx * cx + cy * cy + cz * cz;
    if (d2 <= r * r * f32(1.0001)) return 0;
    return f32(1) / (TWO_PI * capHeight(r * r / d2));
  }
  if (kind != KIND_MESH && isSampledByCone(l, x, y, z)) return f32(1) / (TWO_PI * (f32(1) - load<f32>(l, L_OUTER_COSINE)));
  if (kind == KIND_MESH) return meshDensity(light, triangle) * t * t / max<f32>(cosine, f32(1e-6));
  const c = -(dx * load<f32>(l, L_NX) + dy * load<f32>(l, L_NY) + dz * load<f32>(l, L_NZ));
  return c <= f32(1e-6) ? f32(0) : t * t / (c * load<f32>(l, L_AREA));
}

/**
 * How many samples a sr are aimed at `light` in direction d from (x, y, z), where `count` picks are made: the strength of
 * light sampling in the balance heuristic. t, triangle and cosine tell where a mesh light was met.
 */
export function lightStrength(
  light: i32, count: f32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, t: f32, triangle: i32, cosine: f32,
): f32 {
  const own = ownSamples(light);
  const n = own > 0 ? f32(own) : count * chanceOf(light, x, y, z);
  return n > 0 ? n * ownDensity(light, x, y, z, dx, dy, dz, t, triangle, cosine) : f32(0);
}
