// Pictures on surfaces: bilinear look-up, and the fields of a material that they multiply.
import {
  H_DECODE_TABLE, MATERIAL_BYTES, M_USES, M_USE_COUNT, SCENE_BASE, SCRATCH_MATERIAL, USE_BUMP, USE_BYTES, USE_NORMAL, U_CHANNEL,
  U_ENCODED, U_M0, U_M1, U_M2, U_M3, U_M4, U_M5, U_STRENGTH, U_TARGET, U_TEXTURE, U_WRAP_U, U_WRAP_V, WRAP_CLAMP, WRAP_MIRROR, X_HEIGHT, X_IS_FLOAT, X_PIXELS, X_WIDTH,
} from './layout';
import { across, hasUvs, uvOf, vertexOf } from './triangles';

let textured: usize = 0;
export function bindTextures(scratch: usize): void {
  textured = scratch + SCRATCH_MATERIAL;
}

/** Red, green, blue and alpha of the last look-up. */
let c0: f32 = 0, c1: f32 = 0, c2: f32 = 0, c3: f32 = 0;

// @ts-ignore: decorator
@inline
function wrap(i: i32, n: i32, how: i32): i32 {
  if (how == WRAP_CLAMP) return min(max(i, 0), n - 1);
  const span = how == WRAP_MIRROR ? n << 1 : n;
  let r = i % span;
  if (r < 0) r += span;
  return r < n ? r : span - 1 - r;
}

function addTexel(texture: usize, x: i32, y: i32, weight: f32, encoded: bool): void {
  const i = usize(y * load<i32>(texture, X_WIDTH) + x);
  if (load<i32>(texture, X_IS_FLOAT)) {
    const p = load<usize>(texture, X_PIXELS) + (i << 4);
    c0 += weight * load<f32>(p); c1 += weight * load<f32>(p, 4); c2 += weight * load<f32>(p, 8); c3 += weight * load<f32>(p, 12);
    return;
  }
  const p = load<usize>(texture, X_PIXELS) + (i << 2);
  const r = usize(load<u8>(p)), g = usize(load<u8>(p, 1)), b = usize(load<u8>(p, 2));
  if (encoded) {
    const table = load<usize>(SCENE_BASE, H_DECODE_TABLE);
    c0 += weight * load<f32>(table + (r << 2)); c1 += weight * load<f32>(table + (g << 2)); c2 += weight * load<f32>(table + (b << 2));
  } else {
    const k = weight * f32(1.0 / 255.0);
    c0 += k * f32(r); c1 += k * f32(g); c2 += k * f32(b);
  }
  c3 += weight * f32(1.0 / 255.0) * f32(load<u8>(p, 3));
}

/** Looks up a use's picture at (u, v) moved by (du, dv) texels, bilinearly between texel centres. */
function lookUp(use: usize, u: f32, v: f32, du: f32, dv: f32): void {
  const texture = load<usize>(use, U_TEXTURE);
  const w = load<i32>(texture, X_WIDTH), h = load<i32>(texture, X_HEIGHT);
  const across = load<i32>(use, U_WRAP_U), down = load<i32>(use, U_WRAP_V), encoded = load<i32>(use, U_ENCODED) != 0;
  const s = load<f32>(use, U_M0) * u + load<f32>(use, U_M1) * v + load<f32>(use, U_M2);
  const t = load<f32>(use, U_M3) * u + load<f32>(use, U_M4) * v + load<f32>(use, U_M5);
  const x = s * f32(w) - f32(0.5) + du, y = t * f32(h) - f32(0.5) + dv;
  const fx = floor<f32>(x), fy = floor<f32>(y);
  const ax = x - fx, ay = y - fy;
  const x0 = wrap(i32(fx), w, across), x1 = wrap(i32(fx) + 1, w, across);
  const y0 = wrap(i32(fy), h, down), y1 = wrap(i32(fy) + 1, h, down);
  c0 = 0; c1 = 0; c2 = 0; c3 = 0;
  addTexel(texture, x0, y0, (f32(1) - ax) * (f32(1) - ay), encoded);
  addTexel(texture, x1, y0, ax * (f32(1) - ay), encoded);
  addTexel(texture, x0, y1, (f32(1) - ax) * ay, encoded);
  addTexel(texture, x1, y1, ax * ay, encoded);
}

// @ts-ignore: decorator
@inline
function channelOf(use: usize): f32 {
  const k = load<i32>(use, U_CHANNEL);
  return k == 0 ? c0 : k == 1 ? c1 : k == 2 ? c2 : c3;
}

/** What pictures do to the normal: in tangent space, slopes against u and v (v downwards); and whether any does. */
export let bends: bool = false;
export let slopeU: f32 = 0;
export let slopeV: f32 = 0;
/** Whether the slopes are of a height in metres against uv (a bump map) rather than of a unit tangent frame. */
export let slopesAreHeights: bool = false;

/**
 * The material `record` at (u, v): itself, or a copy in scratch whose fields its pictures have multiplied; in `slot` 0
 * for the vertex, 1 for what a shadow ray passes.
 */
export function materialAt(record: usize, u: f32, v: f32, slot: usize): usize {
  bends = false;
  const count = load<i32>(record, M_USE_COUNT);
  if (count == 0) return record;
  const copy = textured + slot * MATERIAL_BYTES;
  memory.copy(copy, record, MATERIAL_BYTES);
  const uses = load<usize>(record, M_USES);
  for (let i = 0; i < count; i++) {
    const use = uses + usize(i) * USE_BYTES;
    const target = load<i32>(use, U_TARGET);
    if (target == USE_NORMAL) {
      lookUp(use, u, v, 0, 0);
      const k = load<f32>(use, U_STRENGTH);
      const z = max<f32>(c2 * f32(2) - f32(1), f32(0.02));
      bends = true;
      slopesAreHeights = false;
      slopeU = k * (c0 * f32(2) - f32(1)) / z;
      slopeV = k * (c1 * f32(2) - f32(1)) / z;
    } else if (target == USE_BUMP) {
      const texture = load<usize>(use, U_TEXTURE);
      const k = load<f32>(use, U_STRENGTH) * f32(0.5);
      lookUp(use, u, v, 1, 0);
      let s = channelOf(use);
      lookUp(use, u, v, -1, 0);
      s = (s - channelOf(use)) * k * f32(load<i32>(texture, X_WIDTH));
      lookUp(use, u, v, 0, 1);
      let t = channelOf(use);
      lookUp(use, u, v, 0, -1);
      t = (t - channelOf(use)) * k * f32(load<i32>(texture, X_HEIGHT));
      bends = true;
      slopesAreHeights = true;
      slopeU = load<f32>(use, U_M0) * s + load<f32>(use, U_M3) * t;
      slopeV = load<f32>(use, U_M1) * s + load<f32>(use, U_M4) * t;
    } else {
      lookUp(use, u, v, 0, 0);
      const at = copy + usize(target);
      if (load<i32>(use, U_CHANNEL) >= 0) {
        store<f32>(at, load<f32>(at) * channelOf(use));
      } else {
        store<f32>(at, load<f32>(at) * c0);
        store<f32>(at, load<f32>(at, 4) * c1, 4);
        store<f32>(at, load<f32>(at, 8) * c2, 8);
      }
    }
  }
  return copy;
}

/** The material `record` at barycentric (u, v) of a triangle, for what is not the vertex: itself without texture coordinates. */
export function materialWithin(record: usize, triangle: i32, u: f32, v: f32): usize {
  if (!hasUvs()) return record;
  const a = uvOf(vertexOf(triangle, 0)), b = uvOf(vertexOf(triangle, 1)), c = uvOf(vertexOf(triangle, 2));
  return materialAt(record, across(a, b, c, u, v, 0), across(a, b, c, u, v, 4), 1);
}
