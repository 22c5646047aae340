// The place at a hit: position, normals, the frame in which lobes are given, and the material there.
// Directions in lobes are local, z = shading normal on the side of wo.
import {
  H_MATERIALS, I_TO_LOCAL0, I_TO_WORLD0, MATERIAL_BYTES,
  M_ANISOTROPY, M_TURN_COSINE, M_TURN_SINE, SCENE_BASE, TRIANGLE_MATERIAL_SHIFT,
} from './layout';
import { columnTimes, rowTimes, rowTimesPoint } from './matrices';
import { isInside } from './media';
import { bentOf } from './poses';
import { flagsOf, hasRules, infoOf, objectOf, secondaryOf } from './rules';
import { bends, materialAt, slopeU, slopeV, slopesAreHeights } from './textures';
import { across, cornerOf, hasUvs, normalOf, uvOf, vertexOf } from './triangles';

export let px: f32 = 0;
export let py: f32 = 0;
export let pz: f32 = 0;
/** Geometric normal on the side of wo. */
export let gx: f32 = 0;
export let gy: f32 = 0;
export let gz: f32 = 0;
/** Shading normal (local z) and the tangents (local x and y). */
export let nx: f32 = 0;
export let ny: f32 = 0;
export let nz: f32 = 1;
export let tx: f32 = 1;
export let ty: f32 = 0;
export let tz: f32 = 0;
export let bx: f32 = 0;
export let by: f32 = 1;
export let bz: f32 = 0;
export let wox: f32 = 0;
export let woy: f32 = 0;
export let woz: f32 = 1;
/** Cosine between the two normals. */
export let gn: f32 = 1;
export let front: bool = true;
export let objectIndex: i32 = 0;
/** Texture coordinates, 0 without any. */
export let textureU: f32 = 0;
export let textureV: f32 = 0;
/** Flags of the object's rules, 0 where the scene has none. */
export let objectFlags: i32 = 0;
/** The material's record, and the one with its pictures applied. */
export let record: usize = 0;
export let material: usize = 0;
/** Step off the surface, so that the next ray does not meet it again. */
export let epsilon: f32 = 1e-4;

/** Whether vertices loaded from here on are seen by the camera, to which second materials do not show. */
let asCamera: bool = true;
export function lookAsCamera(yes: bool): void {
  asCamera = yes;
}

/** Derivatives of the position against u and v of the texture. */
let pux: f32 = 0, puy: f32 = 0, puz: f32 = 0;
let pvx: f32 = 0, pvy: f32 = 0, pvz: f32 = 0;

/** Sets the derivatives from two edges and their steps in uv; false where the texture has no extent. */
function derive(
  e1x: f32, e1y: f32, e1z: f32, e2x: f32, e2y: f32, e2z: f32, u1: f32, v1: f32, u2: f32, v2: f32,
): bool {
  const det = u1 * v2 - u2 * v1;
  if (abs(det) < f32(1e-20)) return false;
  const k = f32(1) / det;
  pux = (e1x * v2 - e2x * v1) * k; puy = (e1y * v2 - e2y * v1) * k; puz = (e1z * v2 - e2z * v1) * k;
  pvx = (e2x * u1 - e1x * u2) * k; pvy = (e2y * u1 - e1y * u2) * k; pvz = (e2z * u1 - e1z * u2) * k;
  return true;
}


/**
 * Fills the module's vertex from triangle `triangle` of `instance` (0 = world) at barycentric (u, v), met along the
 * unit direction d.
 */
export function loadVertex(triangle: i32, instance: usize, u: f32, v: f32, dx: f32, dy: f32, dz: f32): void {
  const v0 = vertexOf(triangle, 0), v1 = vertexOf(triangle, 1), v2 = vertexOf(triangle, 2), bent = bentOf(triangle, instance);
  const a = cornerOf(v0, 0, bent), b = cornerOf(v1, 1, bent), c = cornerOf(v2, 2, bent);
  const na = normalOf(v0, 0, bent), nb = normalOf(v1, 1, bent), nc = normalOf(v2, 2, bent);
  const ax = load<f32>(a), ay = load<f32>(a, 4), az = load<f32>(a, 8);
  const e1x = load<f32>(b) - ax, e1y = load<f32>(b, 4) - ay, e1z = load<f32>(b, 8) - az;
  const e2x = load<f32>(c) - ax, e2y = load<f32>(c, 4) - ay, e2z = load<f32>(c, 8) - az;
  px = ax + u * e1x + v * e2x; py = ay + u * e1y + v * e2y; pz = az + u * e1z + v * e2z;
  gx = e1y * e2z - e1z * e2y; gy = e1z * e2x - e1x * e2z; gz = e1x * e2y - e1y * e2x;
  nx = across(na, nb, nc, u, v, 0); ny = across(na, nb, nc, u, v, 4); nz = across(na, nb, nc, u, v, 8);
  if (instance) {
    const m = instance + I_TO_WORLD0, n = instance + I_TO_LOCAL0;
    let x = px, y = py, z = pz;
    px = rowTimesPoint(m, x, y, z); py = rowTimesPoint(m + 16, x, y, z); pz = rowTimesPoint(m + 32, x, y, z);
    x = gx; y = gy; z = gz;
    gx = columnTimes(n, x, y, z); gy = columnTimes(n + 4, x, y, z); gz = columnTimes(n + 8, x, y, z);
    x = nx; y = ny; z = nz;
    nx = columnTimes(n, x, y, z); ny = columnTimes(n + 4, x, y, z); nz = columnTimes(n + 8, x, y, z);
  }
  let k = f32(1) / max<f32>(sqrt<f32>(gx * gx + gy * gy + gz * gz), f32(1e-30));
  gx *= k; gy *= k; gz *= k;
  front = gx * dx + gy * dy + gz * dz < 0;
  k = nx * nx + ny * ny + nz * nz;
  if (k < f32(1e-12)) { nx = gx; ny = gy; nz = gz; } else { k = f32(1) / sqrt<f32>(k); nx *= k; ny *= k; nz *= k; }
  if (nx * gx + ny * gy + nz * gz < 0) { nx = -nx; ny = -ny; nz = -nz; }
  const info = infoOf(triangle);
  objectIndex = objectOf(info, instance);
  record = load<usize>(SCENE_BASE, H_MATERIALS) + usize(info >> TRIANGLE_MATERIAL_SHIFT) * MATERIAL_BYTES;
  objectFlags = 0;
  if (hasRules()) {
    objectFlags = flagsOf(objectIndex);
    const second = secondaryOf(objectIndex);
    // A path that has gone into a solid leaves it as the same solid.
    if (second && !asCamera && !isInside(record)) record = second;
  }
  epsilon = f32(3e-5) * max<f32>(f32(1), max<f32>(abs(px), max<f32>(abs(py), abs(pz))));
  let tangents = false;
  if (hasUvs()) {
    const ta = uvOf(v0), tb = uvOf(v1), tc = uvOf(v2);
    const ua = load<f32>(ta), va = load<f32>(ta, 4);
    const u1 = load<f32>(tb) - ua, w1 = load<f32>(tb, 4) - va, u2 = load<f32>(tc) - ua, w2 = load<f32>(tc, 4) - va;
    textureU = ua + u * u1 + v * u2;
    textureV = va + u * w1 + v * w2;
    material = materialAt(record, textureU, textureV, 0);
    if (bends || load<f32>(material, M_ANISOTROPY) != 0) {
      tangents = derive(e1x, e1y, e1z, e2x, e2y, e2z, u1, w1, u2, w2);
      if (tangents && instance) {
        const m = instance + I_TO_WORLD0;
        let x = pux, y = puy, z = puz;
        pux = rowTimes(m, x, y, z); puy = rowTimes(m + 16, x, y, z); puz = rowTimes(m + 32, x, y, z);
        x = pvx; y = pvy; z = pvz;
        pvx = rowTimes(m, x, y, z); pvy = rowTimes(m + 16, x, y, z); pvz = rowTimes(m + 32, x, y, z);
      }
      if (tangents && bends) bend();
    }
  } else {
    material = materialAt(record, 0, 0, 0);
  }
  if (!front) { gx = -gx; gy = -gy; gz = -gz; nx = -nx; ny = -ny; nz = -nz; }
  // A shading normal turned away from the viewer would lose light; the geometric one stands in.
  if (nx * dx + ny * dy + nz * dz > f32(-1e-3)) { nx = gx; ny = gy; nz = gz; }
  frame(tangents);
  gn = nx * gx + ny * gy + nz * gz;
  wox = -(dx * tx + dy * ty + dz * tz);
  woy = -(dx * bx + dy * by + dz * bz);
  woz = max<f32>(-(dx * nx + dy * ny + dz * nz), f32(1e-5));
}

/** Tilts the shading normal by the slopes of a normal or bump map; n is on the outside here. */
function bend(): void {
  let x: f32, y: f32, z: f32;
  if (slopesAreHeights) {
    // The normal of p + h·n: (pu + hu n) × (pv + hv n), without the term in hu·hv.
    const cx = puy * pvz - puz * pvy, cy = puz * pvx - pux * pvz, cz = pux * pvy - puy * pvx;
    const side: f32 = cx * nx + cy * ny + cz * nz < 0 ? -1 : 1;
    x = side * cx + side * (slopeU * (ny * pvz - nz * pvy) + slopeV * (puy * nz - puz * ny));
    y = side * cy + side * (slopeU * (nz * pvx - nx * pvz) + slopeV * (puz * nx - pux * nz));
    z = side * cz + side * (slopeU * (nx * pvy - ny * pvx) + slopeV * (pux * ny - puy * nx));
    // Smooth normals stay the ground that the bump is on.
    const l = f32(1) / max<f32>(sqrt<f32>(cx * cx + cy * cy + cz * cz), f32(1e-30));
    x = nx + (x - side * cx) * l; y = ny + (y - side * cy) * l; z = nz + (z - side * cz) * l;
  } else {
    const d = pux * nx + puy * ny + puz * nz;
    let ux = pux - d * nx, uy = puy - d * ny, uz = puz - d * nz;
    const k = f32(1) / max<f32>(sqrt<f32>(ux * ux + uy * uy + uz * uz), f32(1e-30));
    ux *= k; uy *= k; uz *= k;
    let vx = ny * uz - nz * uy, vy = nz * ux - nx * uz, vz = nx * uy - ny * ux;
    // glTF's bitangent points up the picture, against v.
    if (vx * pvx + vy * pvy + vz * pvz > 0) { vx = -vx; vy = -vy; vz = -vz; }
    x = nx + slopeU * ux + slopeV * vx; y = ny + slopeU * uy + slopeV * vy; z = nz + slopeU * uz + slopeV * vz;
  }
  const k = x * x + y * y + z * z;
  if (!(k > f32(1e-12))) return;
  const r = f32(1) / sqrt<f32>(k);
  nx = x * r; ny = y * r; nz = z * r;
}

/** Tangents about the shading normal: along the texture's u where highlights stretch, any otherwise. */
function frame(tangents: bool): void {
  if (tangents) {
    const d = pux * nx + puy * ny + puz * nz;
    tx = pux - d * nx; ty = puy - d * ny; tz = puz - d * nz;
    const k = tx * tx + ty * ty + tz * tz;
    if (k > f32(1e-24)) {
      const r = f32(1) / sqrt<f32>(k);
      tx *= r; ty *= r; tz *= r;
      bx = ny * tz - nz * ty; by = nz * tx - nx * tz; bz = nx * ty - ny * tx;
      const c = load<f32>(material, M_TURN_COSINE), s = load<f32>(material, M_TURN_SINE);
      const x = c * tx + s * bx, y = c * ty + s * by, z = c * tz + s * bz;
      bx = c * bx - s * tx; by = c * by - s * ty; bz = c * bz - s * tz;
      tx = x; ty = y; tz = z;
      return;
    }
  }
  // An orthonormal basis without branches near the pole [Duff et al. 2017].
  const sign: f32 = nz >= 0 ? 1 : -1;
  const p = f32(-1) / (sign + nz), q = nx * ny * p;
  tx = f32(1) + sign * nx * nx * p; ty = sign * q; tz = -sign * nx;
  bx = q; by = sign + ny * ny * p; bz = -ny;
}
