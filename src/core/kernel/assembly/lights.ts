// Rectangle, sphere and environment lights: meeting them, sampling them, and the densities of both.
import {
  H_ENV_CONDITIONAL, H_ENV_HEIGHT, H_ENV_LIGHT, H_ENV_MARGINAL, H_ENV_PIXELS, H_ENV_ROWS, H_ENV_WIDTH, H_LIGHTS, H_LIGHT_COUNT,
  KIND_ENVIRONMENT, KIND_RECTANGLE, KIND_SPHERE, LIGHT_BYTES, L_AREA, L_GROUP, L_HALF_U, L_HALF_V, L_KIND, L_NX, L_NY,
  L_NZ, L_POWER, L_RADIANCE_B, L_RADIANCE_G, L_RADIANCE_R, L_RADIUS, L_UX, L_UY, L_UZ, L_VISIBLE, L_VX, L_VY, L_VZ, L_X,
  L_Y, L_Z, SCENE_BASE,
} from './layout';

const TWO_PI: f32 = f32(2 * Math.PI);
const PI: f32 = f32(Math.PI);

// @ts-ignore: decorator
@inline
function lightAt(i: i32): usize {
  return load<usize>(SCENE_BASE, H_LIGHTS) + usize(i) * LIGHT_BYTES;
}

export function groupOf(light: i32): i32 {
  return i32(load<f32>(lightAt(light), L_GROUP));
}

/** Whether rays that look at the scene can meet the light; one they cannot is found by sampling it alone. */
export function canBeMet(light: i32): bool {
  const l = lightAt(light);
  return load<f32>(l, L_VISIBLE) != 0 || i32(load<f32>(l, L_KIND)) == KIND_ENVIRONMENT;
}

/** The nearest visible light shape the last `meet` found before its limit (-1 = none). */
export let metLight: i32 = -1;
export let metT: f32 = 0;

function meetShape(l: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32): f32 {
  const kind = i32(load<f32>(l, L_KIND));
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
  const u = px * load<f32>(l, L_UX) + py * load<f32>(l, L_UY) + pz * load<f32>(l, L_UZ);
  const v = px * load<f32>(l, L_VX) + py * load<f32>(l, L_VY) + pz * load<f32>(l, L_VZ);
  return abs(u) <= load<f32>(l, L_HALF_U) && abs(v) <= load<f32>(l, L_HALF_V) ? t : -1;
}

export function meet(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32): void {
  metLight = -1;
  metT = tMax;
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  for (let i = 0; i < n; i++) {
    const l = lightAt(i);
    if (load<f32>(l, L_VISIBLE) == 0) continue;
    const t = meetShape(l, ox, oy, oz, dx, dy, dz, tMin);
    if (t > 0 && t < metT) {
      metT = t;
      metLight = i;
    }
  }
}

/** Whether a light's shape other than `except` stands in (tMin, tMax). */
export function lightBlocks(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32, except: i32): bool {
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  for (let i = 0; i < n; i++) {
    const l = lightAt(i);
    if (i == except || load<f32>(l, L_VISIBLE) == 0) continue;
    const t = meetShape(l, ox, oy, oz, dx, dy, dz, tMin);
    if (t > 0 && t < tMax) return true;
  }
  return false;
}

/** Radiance of the last light or environment asked for. */
export let lr: f32 = 0;
export let lg: f32 = 0;
export let lb: f32 = 0;

/** Radiance that shape `light` sends against the direction d: from a rectangle's front only. */
export function radianceOf(light: i32, dx: f32, dy: f32, dz: f32): void {
  const l = lightAt(light);
  lr = load<f32>(l, L_RADIANCE_R); lg = load<f32>(l, L_RADIANCE_G); lb = load<f32>(l, L_RADIANCE_B);
  if (i32(load<f32>(l, L_KIND)) == KIND_RECTANGLE && dx * load<f32>(l, L_NX) + dy * load<f32>(l, L_NY) + dz * load<f32>(l, L_NZ) >= 0) {
    lr = 0; lg = 0; lb = 0;
  }
}

export function environmentLight(): i32 {
  return load<i32>(SCENE_BASE, H_ENV_LIGHT);
}

/** Pixel of the environment picture in direction d: u = ½ + atan2(x, −z)/2π, v = acos(y)/π. */
function envPixel(dx: f32, dy: f32, dz: f32): i32 {
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH), h = load<i32>(SCENE_BASE, H_ENV_HEIGHT);
  const u = f32(0.5) + NativeMathf.atan2(dx, -dz) / TWO_PI;
  const v = NativeMathf.acos(min<f32>(max<f32>(dy, -1), 1)) / PI;
  const x = min(max(i32(u * f32(w)), 0), w - 1), y = min(max(i32(v * f32(h)), 0), h - 1);
  return y * w + x;
}

export function environmentRadiance(dx: f32, dy: f32, dz: f32): void {
  if (environmentLight() < 0) { lr = 0; lg = 0; lb = 0; return; }
  const at = load<usize>(SCENE_BASE, H_ENV_PIXELS) + usize(envPixel(dx, dy, dz)) * 12;
  lr = load<f32>(at); lg = load<f32>(at, 4); lb = load<f32>(at, 8);
}

/** First index whose cumulative value exceeds u, in `count` ascending floats ending in 1. */
function searchCumulative(at: usize, count: i32, u: f32): i32 {
  let lo = 0, hi = count - 1;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (load<f32>(at + (usize(mid) << 2)) > u) hi = mid; else lo = mid + 1;
  }
  return lo;
}

// @ts-ignore: decorator
@inline
function cumulativeStep(at: usize, i: i32): f32 {
  const hi = load<f32>(at + (usize(i) << 2));
  return i == 0 ? hi : hi - load<f32>(at + (usize(i - 1) << 2));
}

function environmentPdfAt(x: i32, y: i32): f32 {
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH);
  const col = cumulativeStep(load<usize>(SCENE_BASE, H_ENV_CONDITIONAL) + (usize(y * w) << 2), x);
  return load<f32>(load<usize>(SCENE_BASE, H_ENV_ROWS) + (usize(y) << 4), 8) * col;
}

/** Solid-angle density with which the environment would be sampled in direction d. */
export function environmentPdf(dx: f32, dy: f32, dz: f32): f32 {
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH);
  const i = envPixel(dx, dy, dz);
  return environmentPdfAt(i % w, i / w);
}

let weightSum: f32 = 0;
/** How much light i may matter at a point: its power over the square of its distance. */
function importance(i: i32, x: f32, y: f32, z: f32): f32 {
  const l = lightAt(i);
  const power = load<f32>(l, L_POWER);
  if (i32(load<f32>(l, L_KIND)) == KIND_ENVIRONMENT) return power;
  const ex = x - load<f32>(l, L_X), ey = y - load<f32>(l, L_Y), ez = z - load<f32>(l, L_Z);
  const d2 = ex * ex + ey * ey + ez * ez;
  if (i32(load<f32>(l, L_KIND)) == KIND_RECTANGLE) {
    const u = load<f32>(l, L_HALF_U), v = load<f32>(l, L_HALF_V);
    // Behind the front face by more than its own size nothing arrives.
    const front = ex * load<f32>(l, L_NX) + ey * load<f32>(l, L_NY) + ez * load<f32>(l, L_NZ);
    if (front <= 0) return 0;
    return power / max<f32>(d2, u * u + v * v);
  }
  const r = load<f32>(l, L_RADIUS);
  return power / max<f32>(d2, r * r);
}

/** Probability that light i is chosen at a point. */
export function choiceProbability(light: i32, x: f32, y: f32, z: f32): f32 {
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  let sum: f32 = 0, own: f32 = 0;
  for (let i = 0; i < n; i++) {
    const w = importance(i, x, y, z);
    sum += w;
    if (i == light) own = w;
  }
  return sum > 0 ? own / sum : 0;
}

/** The light sample last drawn: direction, distance, radiance (in lr, lg, lb) and density (choice included). */
export let chosen: i32 = -1;
export let sx: f32 = 0;
export let sy: f32 = 0;
export let sz: f32 = 0;
export let sDistance: f32 = 0;
export let sPdf: f32 = 0;

/** Chooses a light at (x, y, z) by importance with `pick`, and a direction to it with (u, v). False when nothing can arrive. */
export function sampleLight(x: f32, y: f32, z: f32, pick: f32, u: f32, v: f32): bool {
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  weightSum = 0;
  for (let i = 0; i < n; i++) weightSum += importance(i, x, y, z);
  if (!(weightSum > 0)) return false;
  let rest = pick * weightSum;
  let w: f32 = 0;
  chosen = -1;
  for (let i = 0; i < n; i++) {
    const k = importance(i, x, y, z);
    if (k <= 0) continue;
    chosen = i; w = k;
    rest -= k;
    if (rest < 0) break;
  }
  if (chosen < 0) return false;
  const pmf = w / weightSum;
  const l = lightAt(chosen);
  const kind = i32(load<f32>(l, L_KIND));
  if (kind == KIND_ENVIRONMENT) return sampleEnvironment(pmf, u, v);
  if (kind == KIND_SPHERE) return sampleSphere(l, x, y, z, pmf, u, v);
  const a = (u * f32(2) - f32(1)) * load<f32>(l, L_HALF_U), b = (v * f32(2) - f32(1)) * load<f32>(l, L_HALF_V);
  sx = load<f32>(l, L_X) + a * load<f32>(l, L_UX) + b * load<f32>(l, L_VX) - x;
  sy = load<f32>(l, L_Y) + a * load<f32>(l, L_UY) + b * load<f32>(l, L_VY) - y;
  sz = load<f32>(l, L_Z) + a * load<f32>(l, L_UZ) + b * load<f32>(l, L_VZ) - z;
  const d2 = sx * sx + sy * sy + sz * sz;
  sDistance = sqrt<f32>(d2);
  if (sDistance < f32(1e-6)) return false;
  sx /= sDistance; sy /= sDistance; sz /= sDistance;
  const cosine = -(sx * load<f32>(l, L_NX) + sy * load<f32>(l, L_NY) + sz * load<f32>(l, L_NZ));
  if (cosine <= f32(1e-6)) return false;
  sPdf = pmf * d2 / (cosine * load<f32>(l, L_AREA));
  lr = load<f32>(l, L_RADIANCE_R); lg = load<f32>(l, L_RADIANCE_G); lb = load<f32>(l, L_RADIANCE_B);
  return true;
}

/** 1 − cos of the half angle under which a sphere is seen, kept accurate for small angles. */
// @ts-ignore: decorator
@inline
function capHeight(r2: f32, d2: f32): f32 {
  const s2 = r2 / d2;
  return s2 < f32(1e-3) ? s2 * f32(0.5) * (f32(1) + s2 * f32(0.25)) : f32(1) - sqrt<f32>(max<f32>(f32(1) - s2, 0));
}

function sampleSphere(l: usize, x: f32, y: f32, z: f32, pmf: f32, u: f32, v: f32): bool {
  const cx = load<f32>(l, L_X) - x, cy = load<f32>(l, L_Y) - y, cz = load<f32>(l, L_Z) - z;
  const r = load<f32>(l, L_RADIUS);
  const d2 = cx * cx + cy * cy + cz * cz;
  if (d2 <= r * r * f32(1.0001)) return false;
  const d = sqrt<f32>(d2);
  const cap = capHeight(r * r, d2);
  const cosT = f32(1) - u * cap;
  const sinT = sqrt<f32>(max<f32>(f32(1) - cosT * cosT, 0));
  const phi = v * TWO_PI;
  const wx = cx / d, wy = cy / d, wz = cz / d;
  // An orthonormal basis without branches near the pole [Duff et al. 2017].
  const sign: f32 = wz >= 0 ? 1 : -1;
  const a = f32(-1) / (sign + wz), b = wx * wy * a;
  const px = sinT * NativeMathf.cos(phi), py = sinT * NativeMathf.sin(phi);
  sx = px * (f32(1) + sign * wx * wx * a) + py * b + cosT * wx;
  sy = px * sign * b + py * (sign + wy * wy * a) + cosT * wy;
  sz = px * -sign * wx - py * wy + cosT * wz;
  const along = d * cosT;
  sDistance = max<f32>(along - sqrt<f32>(max<f32>(r * r - (d2 - along * along), 0)), 0);
  sPdf = pmf / (TWO_PI * cap);
  lr = load<f32>(l, L_RADIANCE_R); lg = load<f32>(l, L_RADIANCE_G); lb = load<f32>(l, L_RADIANCE_B);
  return true;
}

function sampleEnvironment(pmf: f32, u: f32, v: f32): bool {
  const w = load<i32>(SCENE_BASE, H_ENV_WIDTH), h = load<i32>(SCENE_BASE, H_ENV_HEIGHT);
  const marginal = load<usize>(SCENE_BASE, H_ENV_MARGINAL);
  const y = searchCumulative(marginal, h, v);
  const row = load<usize>(SCENE_BASE, H_ENV_CONDITIONAL) + (usize(y * w) << 2);
  const x = searchCumulative(row, w, u);
  const pv = cumulativeStep(marginal, y), pu = cumulativeStep(row, x);
  if (pv <= 0 || pu <= 0) return false;
  const fv = (v - (load<f32>(marginal + (usize(y) << 2)) - pv)) / pv;
  const fu = (u - (load<f32>(row + (usize(x) << 2)) - pu)) / pu;
  const edges = load<usize>(SCENE_BASE, H_ENV_ROWS) + (usize(y) << 4);
  const c0 = load<f32>(edges), c1 = load<f32>(edges, 4);
  const cosine = c0 + (c1 - c0) * min<f32>(max<f32>(fv, 0), 1);
  const sine = sqrt<f32>(max<f32>(f32(1) - cosine * cosine, 0));
  const phi = ((f32(x) + min<f32>(max<f32>(fu, f32(0.0001)), f32(0.9999))) / f32(w) - f32(0.5)) * TWO_PI;
  sx = sine * NativeMathf.sin(phi);
  sy = cosine;
  sz = -sine * NativeMathf.cos(phi);
  sDistance = f32(1e30);
  sPdf = pmf * load<f32>(edges, 8) * pu;
  const at = load<usize>(SCENE_BASE, H_ENV_PIXELS) + usize(y * w + x) * 12;
  lr = load<f32>(at); lg = load<f32>(at, 4); lb = load<f32>(at, 8);
  return sPdf > 0;
}

/** Density with which `sampleLight` at (x, y, z) would give direction d to light `light`, met at distance t. */
export function lightPdf(light: i32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, t: f32): f32 {
  const pmf = choiceProbability(light, x, y, z);
  if (pmf <= 0) return 0;
  const l = lightAt(light);
  const kind = i32(load<f32>(l, L_KIND));
  if (kind == KIND_ENVIRONMENT) return pmf * environmentPdf(dx, dy, dz);
  if (kind == KIND_SPHERE) {
    const cx = load<f32>(l, L_X) - x, cy = load<f32>(l, L_Y) - y, cz = load<f32>(l, L_Z) - z;
    const r = load<f32>(l, L_RADIUS);
    const d2 = cx * cx + cy * cy + cz * cz;
    if (d2 <= r * r * f32(1.0001)) return 0;
    return pmf / (TWO_PI * capHeight(r * r, d2));
  }
  const cosine = -(dx * load<f32>(l, L_NX) + dy * load<f32>(l, L_NY) + dz * load<f32>(l, L_NZ));
  return cosine <= f32(1e-6) ? 0 : pmf * t * t / (cosine * load<f32>(l, L_AREA));
}
