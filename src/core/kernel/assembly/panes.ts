// Clear panes: thin-walled smooth dielectrics that let shadow rays through straight.
import {
  H_INDICES, H_MATERIALS, H_POSITIONS, H_TRIANGLE_INFO, I_TO_LOCAL0, MATERIAL_BYTES, M_BASE_B, M_BASE_G, M_BASE_R, M_IOR,
  M_TRANSMISSION, SCENE_BASE, TRIANGLE_MATERIAL_SHIFT,
} from './layout';
import { fresnelDielectric } from './optics';

/** Transmittance of the last pane, both faces and all inner reflections counted. */
export let paneR: f32 = 1;
export let paneG: f32 = 1;
export let paneB: f32 = 1;

/** Reflectance of a pane with two parallel faces: R + T²R + T²R³ … = 2R / (1 + R). */
// @ts-ignore: decorator
@inline
export function paneReflectance(cosine: f32, ior: f32): f32 {
  const r = fresnelDielectric(cosine, ior);
  return f32(2) * r / (f32(1) + r);
}

/**
 * Sets `pane*` to what `triangle` of `instance` (0 = world) lets through straight along d, which is of unit length in
 * the world and given in the instance's space.
 */
export function paneTransmittance(triangle: i32, instance: usize, dx: f32, dy: f32, dz: f32): void {
  const positions = load<usize>(SCENE_BASE, H_POSITIONS);
  const tri = load<usize>(SCENE_BASE, H_INDICES) + usize(triangle) * 12;
  const a = positions + usize(load<u32>(tri)) * 12;
  const b = positions + usize(load<u32>(tri, 4)) * 12;
  const c = positions + usize(load<u32>(tri, 8)) * 12;
  const ax = load<f32>(a), ay = load<f32>(a, 4), az = load<f32>(a, 8);
  const ux = load<f32>(b) - ax, uy = load<f32>(b, 4) - ay, uz = load<f32>(b, 8) - az;
  const vx = load<f32>(c) - ax, vy = load<f32>(c, 4) - ay, vz = load<f32>(c, 8) - az;
  const nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx;
  // n·d is the same in both spaces when normals go by the transpose of the inverse; only their length differs.
  let wx = nx, wy = ny, wz = nz;
  if (instance) {
    const m = instance + I_TO_LOCAL0;
    wx = load<f32>(m) * nx + load<f32>(m, 16) * ny + load<f32>(m, 32) * nz;
    wy = load<f32>(m, 4) * nx + load<f32>(m, 20) * ny + load<f32>(m, 36) * nz;
    wz = load<f32>(m, 8) * nx + load<f32>(m, 24) * ny + load<f32>(m, 40) * nz;
  }
  const length = sqrt<f32>(wx * wx + wy * wy + wz * wz);
  const cosine = abs(nx * dx + ny * dy + nz * dz) / max<f32>(length, f32(1e-20));
  const info = load<u32>(load<usize>(SCENE_BASE, H_TRIANGLE_INFO) + (usize(triangle) << 2));
  const m = load<usize>(SCENE_BASE, H_MATERIALS) + usize(info >> TRIANGLE_MATERIAL_SHIFT) * MATERIAL_BYTES;
  const t = (f32(1) - paneReflectance(cosine, load<f32>(m, M_IOR))) * load<f32>(m, M_TRANSMISSION);
  paneR = t * load<f32>(m, M_BASE_R);
  paneG = t * load<f32>(m, M_BASE_G);
  paneB = t * load<f32>(m, M_BASE_B);
}
