// Rays of a render written down, eight floats each as `traceRays` takes them, so that a study can trace the same ones bare. The
// last float is 1 for rays that ask whether anything is in the way.
import { P_MOST_RAY_RECORDS, P_RAY_RECORDS, SCRATCH_PARAMS } from './layout';

let at: usize = 0;
let most: i32 = 0;
let written: i32 = 0;

/** Writes none until `bindRayRecords`: rays of the preparations are no rays of the render. */
export function stopRayRecords(): void {
  at = 0;
}

export function bindRayRecords(base: usize): void {
  at = usize(load<i32>(base + SCRATCH_PARAMS, P_RAY_RECORDS));
  most = load<i32>(base + SCRATCH_PARAMS, P_MOST_RAY_RECORDS);
  written = 0;
}

// @ts-ignore: decorator
@inline
export function recordsRays(): bool {
  return at != 0;
}

export function rayRecordCount(): i32 {
  return written;
}

export function recordRay(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tMin: f32, tMax: f32, asks: f32,
): void {
  if (written == most) return;
  const r = at + usize(written) * 32;
  store<f32>(r, ox + dx * tMin); store<f32>(r, oy + dy * tMin, 4); store<f32>(r, oz + dz * tMin, 8);
  store<f32>(r, dx, 12); store<f32>(r, dy, 16); store<f32>(r, dz, 20);
  store<f32>(r, tMax - tMin, 24);
  store<f32>(r, asks, 28);
  written++;
}
