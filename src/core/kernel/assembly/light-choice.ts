// Which light to sample at a place: by importance, down a tree of cones and boxes [Conty Estevez & Kulla 2018].
// Lights without a place stand beside the tree's root; lights with samples of their own are in neither.
import {
  H_FAR_COUNT, H_FAR_LIGHTS, H_LIGHT_COUNT, H_LIGHT_TREE, H_TREE_LIGHTS, KIND_DISK, KIND_DISTANT, KIND_ENVIRONMENT, KIND_RECTANGLE, KIND_SPOT, L_APEX, L_BOUND, L_CHOICE, L_NX, L_NY, L_NZ,
  L_OUTER_COSINE, L_POWER, L_TRAIL, L_TRAIL_DEPTH, L_X, L_Y, L_Z, Q_AXIS_X, Q_AXIS_Y, Q_AXIS_Z, Q_COSINE, Q_COUNT, Q_FIRST, Q_LEFT,
  Q_MAX_X, Q_MAX_Y, Q_MAX_Z, Q_MIN_X, Q_MIN_Y, Q_MIN_Z, Q_POWER, Q_RIGHT, Q_SINE, SCENE_BASE,
} from './layout';
import { kindOf, lightAt, ownSamples } from './light-records';
import { uniformChoice } from './study';

/** How much a light with a place may matter at a point: its power over the square of its distance. */
export function importance(light: i32, x: f32, y: f32, z: f32): f32 {
  const l = lightAt(light);
  return load<f32>(l, L_POWER) * closeness(l, x, y, z);
}

/** One over the square of a light's distance from a point; 0 where it sends nothing. */
export function closeness(l: usize, x: f32, y: f32, z: f32): f32 {
  const ex = x - load<f32>(l, L_X), ey = y - load<f32>(l, L_Y), ez = z - load<f32>(l, L_Z);
  const d2 = ex * ex + ey * ey + ez * ez;
  const kind = kindOf(l);
  if (kind == KIND_RECTANGLE || kind == KIND_DISK || kind == KIND_SPOT) {
    const nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ);
    const front = ex * nx + ey * ny + ez * nz;
    if (kind != KIND_SPOT && front <= 0) return 0;
    const outer = load<f32>(l, L_OUTER_COSINE);
    if (outer > -1) {
      // All its light lies in one cone, whose tip is at or behind the light.
      const a = load<f32>(l, L_APEX);
      const qx = ex + a * nx, qy = ey + a * ny, qz = ez + a * nz;
      if (front + a <= outer * sqrt<f32>(qx * qx + qy * qy + qz * qz)) return 0;
    }
  }
  // No nearer than its size, or than where a narrow beam is as wide as its light: it grows no brighter from there.
  const bound = max<f32>(load<f32>(l, L_BOUND), load<f32>(l, L_APEX));
  return f32(1) / max<f32>(max<f32>(d2, bound * bound), f32(1e-8));
}

/**
 * How much the lights below a node may matter at a point, as if all stood at its middle and no nearer than its size: never 0 where one of them sends something, but no upper bound,
 * since one of them may be nearer.
 */
function nodeImportance(n: usize, x: f32, y: f32, z: f32): f32 {
  const lx = load<f32>(n, Q_MIN_X), ly = load<f32>(n, Q_MIN_Y), lz = load<f32>(n, Q_MIN_Z);
  const hx = load<f32>(n, Q_MAX_X), hy = load<f32>(n, Q_MAX_Y), hz = load<f32>(n, Q_MAX_Z);
  const ex = x - (lx + hx) * f32(0.5), ey = y - (ly + hy) * f32(0.5), ez = z - (lz + hz) * f32(0.5);
  const r2 = f32(0.25) * ((hx - lx) * (hx - lx) + (hy - ly) * (hy - ly) + (hz - lz) * (hz - lz));
  const d2 = ex * ex + ey * ey + ez * ez;
  const base = load<f32>(n, Q_POWER) / max<f32>(max<f32>(d2, r2), f32(1e-8));
  const cosine = load<f32>(n, Q_COSINE);
  if (cosine <= -1 || d2 <= r2) return base;
  // Cosine of the angle to the axis, less the cone's and less what the box spans: each by the cosine of a difference.
  const towards = (ex * load<f32>(n, Q_AXIS_X) + ey * load<f32>(n, Q_AXIS_Y) + ez * load<f32>(n, Q_AXIS_Z)) / sqrt<f32>(d2);
  const c = min<f32>(max<f32>(towards, -1), 1);
  if (c >= cosine) return base;
  const s = sqrt<f32>(f32(1) - c * c);
  const sine = load<f32>(n, Q_SINE);
  const c1 = c * cosine + s * sine, s1 = max<f32>(s * cosine - c * sine, 0);
  const spans = r2 / d2, c2 = sqrt<f32>(max<f32>(f32(1) - spans, 0));
  if (c1 >= c2) return base;
  // By what rounding may take away, no light is left out that still sends something.
  return base * max<f32>(c1 * c2 + s1 * sqrt<f32>(spans) + f32(1e-5), 0);
}

/** Whether a light has no place. */
// @ts-ignore: decorator
@inline
export function isFar(l: usize): bool {
  const kind = kindOf(l);
  return kind == KIND_ENVIRONMENT || kind == KIND_DISTANT;
}

// @ts-ignore: decorator
@inline
function farLight(k: i32): i32 {
  return load<i32>(load<usize>(SCENE_BASE, H_FAR_LIGHTS) + (usize(k) << 2));
}

// @ts-ignore: decorator
@inline
function farPower(l: usize): f32 {
  return load<f32>(l, L_POWER) * load<f32>(l, L_CHOICE);
}

/** The sum that `farImportance` gives, less than 0 until it is asked for: it is the same everywhere. */
let farSum: f32 = -1;

/** Forgets what was summed up of another scene. */
export function bindLightChoice(): void {
  farSum = -1;
}

/** Importance of all lights without a place together, those with samples of their own left out. */
// @ts-ignore: decorator
@inline
function farImportance(): f32 {
  return farSum >= 0 ? farSum : sumFar();
}

function sumFar(): f32 {
  let sum: f32 = 0;
  const n = load<i32>(SCENE_BASE, H_FAR_COUNT);
  for (let k = 0; k < n; k++) {
    const i = farLight(k);
    if (ownSamples(i) == 0) sum += farPower(lightAt(i));
  }
  farSum = sum;
  return sum;
}

/** The light last picked and the probability of that. */
export let picked: i32 = -1;
export let pickedChance: f32 = 0;

/** Picks a light for the point with `u` in [0, 1). False when none can matter there. */
export function pickLight(x: f32, y: f32, z: f32, u: f32): bool {
  if (uniformChoice) {
    const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
    picked = min(i32(u * f32(n)), n - 1);
    pickedChance = f32(1) / f32(n);
    return n > 0 && ownSamples(picked) == 0;
  }
  const root = load<usize>(SCENE_BASE, H_LIGHT_TREE);
  const near: f32 = root ? nodeImportance(root, x, y, z) : 0;
  const sum = farImportance() + near;
  if (!(sum > 0)) return false;
  let rest = u * sum;
  const n = load<i32>(SCENE_BASE, H_FAR_COUNT);
  for (let k = 0; k < n; k++) {
    const i = farLight(k);
    if (ownSamples(i) != 0) continue;
    const w = farPower(lightAt(i));
    if (rest < w || (near <= 0 && w > 0 && rest - w < f32(1e-6) * sum)) {
      picked = i;
      pickedChance = w / sum;
      return true;
    }
    rest -= w;
  }
  if (near <= 0) return false;
  let chance = near / sum;
  // What is left of u, anew in [0, 1).
  let t = min<f32>(rest / near, f32(0.99999994));
  let node = root;
  while (load<usize>(node, Q_LEFT)) {
    const left = load<usize>(node, Q_LEFT), right = load<usize>(node, Q_RIGHT);
    const a = nodeImportance(left, x, y, z), b = nodeImportance(right, x, y, z);
    if (!(a + b > 0)) return false;
    const p = a / (a + b);
    if (t < p) { node = left; chance *= p; t = t / p; } else { node = right; chance *= f32(1) - p; t = (t - p) / (f32(1) - p); }
    t = min<f32>(t, f32(0.99999994));
  }
  const list = load<usize>(SCENE_BASE, H_TREE_LIGHTS) + (usize(load<i32>(node, Q_FIRST)) << 2);
  const count = load<i32>(node, Q_COUNT);
  let whole: f32 = 0;
  for (let k = 0; k < count; k++) whole += importance(load<i32>(list + (usize(k) << 2)), x, y, z);
  if (!(whole > 0)) return false;
  rest = t * whole;
  picked = -1;
  for (let k = 0; k < count; k++) {
    const i = load<i32>(list + (usize(k) << 2));
    const w = importance(i, x, y, z);
    if (w <= 0) continue;
    picked = i;
    pickedChance = chance * w / whole;
    rest -= w;
    if (rest < 0) break;
  }
  return picked >= 0;
}

/** Probability with which `pickLight` picks a light at a point; 0 for one with samples of its own. */
export function chanceOf(light: i32, x: f32, y: f32, z: f32): f32 {
  const l = lightAt(light);
  if (ownSamples(light) != 0) return 0;
  if (uniformChoice) return f32(1) / f32(load<i32>(SCENE_BASE, H_LIGHT_COUNT));
  const root = load<usize>(SCENE_BASE, H_LIGHT_TREE);
  const near: f32 = root ? nodeImportance(root, x, y, z) : 0;
  const sum = farImportance() + near;
  if (!(sum > 0)) return 0;
  const depth = load<i32>(l, L_TRAIL_DEPTH);
  if (depth < 0) return isFar(l) ? farPower(l) / sum : f32(0);
  let trail = load<u32>(l, L_TRAIL);
  let chance = near / sum;
  let node = root;
  for (let k = 0; k < depth; k++) {
    const left = load<usize>(node, Q_LEFT), right = load<usize>(node, Q_RIGHT);
    const a = nodeImportance(left, x, y, z), b = nodeImportance(right, x, y, z);
    if (!(a + b > 0)) return 0;
    const p = a / (a + b);
    if (trail & 1) { node = right; chance *= f32(1) - p; } else { node = left; chance *= p; }
    trail >>= 1;
  }
  const list = load<usize>(SCENE_BASE, H_TREE_LIGHTS) + (usize(load<i32>(node, Q_FIRST)) << 2);
  const count = load<i32>(node, Q_COUNT);
  let whole: f32 = 0, own: f32 = 0;
  for (let k = 0; k < count; k++) {
    const i = load<i32>(list + (usize(k) << 2));
    const w = importance(i, x, y, z);
    whole += w;
    if (i == light) own = w;
  }
  return whole > 0 ? chance * own / whole : 0;
}
