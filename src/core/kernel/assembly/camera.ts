// Thin-lens camera with filter importance sampling [Ernst et al. 2006].
import {
  FILTER_TABLE_SIZE, P_BACK_X, P_BACK_Y, P_BACK_Z, P_CAM_X, P_CAM_Y, P_CAM_Z, P_FILTER_WIDTH, P_FOCUS, P_HEIGHT,
  P_LENS_RADIUS, P_RIGHT_X, P_RIGHT_Y, P_RIGHT_Z, P_TAN_HALF_X, P_TAN_HALF_Y, P_UP_X, P_UP_Y, P_UP_Z, P_WIDTH,
  SCRATCH_FILTER, SCRATCH_PARAMS,
} from './layout';

export let ox: f32 = 0;
export let oy: f32 = 0;
export let oz: f32 = 0;
export let dx: f32 = 0;
export let dy: f32 = 0;
export let dz: f32 = 0;
/** Squared distance of the sample from the pixel centre, in pixels. */
export let off2: f32 = 0;

let scratch: usize = 0;
export function bindCamera(base: usize): void {
  scratch = base;
}

/** Offset in (−½, ½) filter widths whose distribution is the filter: the tabled inverse, linearly between. */
function filterOffset(u: f32): f32 {
  const x = u * f32(FILTER_TABLE_SIZE - 1);
  const i = min(i32(x), FILTER_TABLE_SIZE - 2);
  const at = scratch + SCRATCH_FILTER + (usize(i) << 2);
  const a = load<f32>(at), b = load<f32>(at, 4);
  return a + (b - a) * (x - f32(i));
}

/** A ray through pixel (px, py): (u, v) chooses the place in the pixel, (s, t) the place on the lens. */
export function cameraRay(px: i32, py: i32, u: f32, v: f32, s: f32, t: f32): void {
  const p = scratch + SCRATCH_PARAMS;
  const width = load<f32>(p, P_FILTER_WIDTH);
  const fx = filterOffset(u) * width, fy = filterOffset(v) * width;
  off2 = fx * fx + fy * fy;
  const w = f32(load<i32>(p, P_WIDTH)), h = f32(load<i32>(p, P_HEIGHT));
  const x = (f32(2) * (f32(px) + f32(0.5) + fx) / w - f32(1)) * load<f32>(p, P_TAN_HALF_X);
  const y = (f32(1) - f32(2) * (f32(py) + f32(0.5) + fy) / h) * load<f32>(p, P_TAN_HALF_Y);
  const lens = load<f32>(p, P_LENS_RADIUS), focus = load<f32>(p, P_FOCUS);
  let lx: f32 = 0, ly: f32 = 0;
  if (lens > 0) {
    const r = lens * sqrt<f32>(s), phi = t * f32(2 * Math.PI);
    lx = r * NativeMathf.cos(phi);
    ly = r * NativeMathf.sin(phi);
  }
  const cx = lens > 0 ? x - lx / focus : x, cy = lens > 0 ? y - ly / focus : y;
  const rx = load<f32>(p, P_RIGHT_X), ry = load<f32>(p, P_RIGHT_Y), rz = load<f32>(p, P_RIGHT_Z);
  const ux = load<f32>(p, P_UP_X), uy = load<f32>(p, P_UP_Y), uz = load<f32>(p, P_UP_Z);
  dx = rx * cx + ux * cy - load<f32>(p, P_BACK_X);
  dy = ry * cx + uy * cy - load<f32>(p, P_BACK_Y);
  dz = rz * cx + uz * cy - load<f32>(p, P_BACK_Z);
  const n = f32(1) / sqrt<f32>(dx * dx + dy * dy + dz * dz);
  dx *= n; dy *= n; dz *= n;
  ox = load<f32>(p, P_CAM_X) + rx * lx + ux * ly;
  oy = load<f32>(p, P_CAM_Y) + ry * lx + uy * ly;
  oz = load<f32>(p, P_CAM_Z) + rz * lx + uz * ly;
}

/** Distance along the camera's axis of a point. */
export function axialDepth(x: f32, y: f32, z: f32): f32 {
  const p = scratch + SCRATCH_PARAMS;
  return (load<f32>(p, P_CAM_X) - x) * load<f32>(p, P_BACK_X) + (load<f32>(p, P_CAM_Y) - y) * load<f32>(p, P_BACK_Y) +
    (load<f32>(p, P_CAM_Z) - z) * load<f32>(p, P_BACK_Z);
}
