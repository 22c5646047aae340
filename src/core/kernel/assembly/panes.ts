// What lets shadow rays through: clear panes, cut-outs, and smooth solids that ask for straight shadows.
import {
  I_TO_LOCAL0, MIRROR_ALPHA, M_ABSORB_B, M_ABSORB_G,
  M_ABSORB_R, M_BOUNDARY, M_IOR, M_METALNESS, M_OPACITY, M_ROUGHNESS, M_STRAIGHT_SHADOWS, M_THIN_WALLED, M_TINT_B, M_TINT_G, M_TINT_R,
  M_TRANSMISSION, M_TRANSMISSION_ROUGHNESS,
} from './layout';
import { extinctionOf } from './fog';
import { columnTimes } from './matrices';
import { fresnelDielectric } from './optics';
import { bentOf } from './poses';
import { castsNoShadow, infoOf, secondaryRecord } from './rules';
import { materialWithin } from './textures';
import { cornerOf, vertexOf } from './triangles';

/** What the last triangle lets through, and whether light passes glass there rather than a hole. */
export let paneR: f32 = 1;
export let paneG: f32 = 1;
export let paneB: f32 = 1;
export let paneIsGlass: bool = false;
/** Whether it only bounds fog, then the extinction of that, and which way the ray goes (below 0 = into it). */
export let paneIsBoundary: bool = false;
export let paneExtinction: f64 = 0;
export let paneAlong: f32 = 0;

/** Reflectance of a pane with two parallel faces: R + T²R + T²R³ … = 2R / (1 + R). */
// @ts-ignore: decorator
@inline
export function paneReflectance(cosine: f32, ior: f32): f32 {
  const r = fresnelDielectric(cosine, ior);
  return f32(2) * r / (f32(1) + r);
}

/**
 * Sets `pane*` to what `triangle` of `instance` (0 = world) lets through straight along d, which is of unit length in
 * the world and given in the instance's space; met after t metres at (u, v). A solid's absorption is told by both
 * its faces: e^(σt) where the ray enters and e^(−σt) where it leaves, whatever the order in which they are met.
 */
export function paneTransmittance(triangle: i32, instance: usize, dx: f32, dy: f32, dz: f32, t: f32, u: f32, v: f32): void {
  const info = infoOf(triangle);
  paneIsGlass = false;
  paneIsBoundary = false;
  if (castsNoShadow(info, instance)) { paneR = 1; paneG = 1; paneB = 1; return; }
  let m = secondaryRecord(info, instance);
  paneIsBoundary = load<f32>(m, M_BOUNDARY) != 0;
  m = materialWithin(m, triangle, u, v);
  if (paneIsBoundary) {
    paneR = 1; paneG = 1; paneB = 1;
    paneExtinction = extinctionOf(u32(load<f32>(m, M_BOUNDARY)));
    meetFace(triangle, instance, dx, dy, dz);
    paneAlong = along;
    return;
  }
  const hole = f32(1) - load<f32>(m, M_OPACITY);
  paneR = hole; paneG = hole; paneB = hole;
  const roughness = load<f32>(m, M_ROUGHNESS), own = load<f32>(m, M_TRANSMISSION_ROUGHNESS);
  const through = own < 0 ? roughness : own;
  const thin = load<f32>(m, M_THIN_WALLED) > 0;
  const glass = load<f32>(m, M_TRANSMISSION) * (f32(1) - load<f32>(m, M_METALNESS)) * (f32(1) - hole);
  paneIsGlass = glass > 0 && through * through < MIRROR_ALPHA && (thin || load<f32>(m, M_STRAIGHT_SHADOWS) > 0);
  if (!paneIsGlass) return;
  meetFace(triangle, instance, dx, dy, dz);
  const ior = load<f32>(m, M_IOR);
  if (thin) {
    const k = glass * (f32(1) - paneReflectance(cosine, ior));
    paneR += k * load<f32>(m, M_TINT_R); paneG += k * load<f32>(m, M_TINT_G); paneB += k * load<f32>(m, M_TINT_B);
    return;
  }
  // From inside, the angle outside is taken, so that both faces of a plate weaken light alike.
  const k = glass * (f32(1) - fresnelDielectric(cosine, ior));
  const way = along < 0 ? t : -t;
  paneR += k * load<f32>(m, M_TINT_R) * grow(load<f32>(m, M_ABSORB_R), way);
  paneG += k * load<f32>(m, M_TINT_G) * grow(load<f32>(m, M_ABSORB_G), way);
  paneB += k * load<f32>(m, M_TINT_B) * grow(load<f32>(m, M_ABSORB_B), way);
}

/** Which way a ray goes through a triangle (below 0 = into it), and the cosine to its normal. */
let along: f32 = 0, cosine: f32 = 1;
function meetFace(triangle: i32, instance: usize, dx: f32, dy: f32, dz: f32): void {
  const bent = bentOf(triangle, instance);
  const a = cornerOf(vertexOf(triangle, 0), 0, bent), b = cornerOf(vertexOf(triangle, 1), 1, bent), c = cornerOf(vertexOf(triangle, 2), 2, bent);
  const ax = load<f32>(a), ay = load<f32>(a, 4), az = load<f32>(a, 8);
  const ux = load<f32>(b) - ax, uy = load<f32>(b, 4) - ay, uz = load<f32>(b, 8) - az;
  const vx = load<f32>(c) - ax, vy = load<f32>(c, 4) - ay, vz = load<f32>(c, 8) - az;
  const nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx;
  // n·d is the same in both spaces when normals go by the transpose of the inverse; only their length differs.
  let wx = nx, wy = ny, wz = nz;
  if (instance) {
    const n = instance + I_TO_LOCAL0;
    wx = columnTimes(n, nx, ny, nz); wy = columnTimes(n + 4, nx, ny, nz); wz = columnTimes(n + 8, nx, ny, nz);
  }
  const length = sqrt<f32>(wx * wx + wy * wy + wz * wz);
  along = nx * dx + ny * dy + nz * dz;
  cosine = abs(along) / max<f32>(length, f32(1e-20));
}

// @ts-ignore: decorator
@inline
function grow(sigma: f32, t: f32): f32 {
  return sigma > 0 ? NativeMathf.exp(min<f32>(sigma * t, 60)) : 1;
}
