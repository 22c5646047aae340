// What denoising is steered by, in halves: the first surface on the camera's way that is neither a mirror nor clear glass,
// weighed by what of its light arrives.
import { addAt, addColor, halfOf } from './film';
import { GUIDE_PLANES, P_FOCUS, P_PLANE_GUIDES, SCRATCH_PARAMS } from './layout';
import { featureAlbedo } from './material';
import { nx, ny, nz } from './vertex';

let plane: i32 = -1;
let focus: f32 = 1;

export function bindGuides(base: usize): void {
  plane = load<i32>(base + SCRATCH_PARAMS, P_PLANE_GUIDES);
  focus = load<f32>(base + SCRATCH_PARAMS, P_FOCUS);
}

export function keepsGuides(): bool {
  return plane >= 0;
}

/** Metres from the camera to its first hit, and along the way under way. */
let first: f32 = 0;
let way: f32 = 0;

/** Notes how far the camera's first hit is. */
export function noteFirst(length: f32): void {
  first = length;
  way = length;
}
/** Begins a way at the first hit again. */
export function beginWay(): void {
  way = first;
}
export function goOn(length: f32): void {
  way += length;
}

/** Records the surface loaded, of which (r, g, b) times `share` of the light arrives. */
export function guideSurface(r: f32, g: f32, b: f32, share: f32): void {
  const w = (r * f32(0.2126) + g * f32(0.7152) + b * f32(0.0722)) * share;
  const at = plane + halfOf() * GUIDE_PLANES;
  addColor(at, r * share * featureAlbedo(0), g * share * featureAlbedo(1), b * share * featureAlbedo(2));
  addColor(at + 3, nx * w, ny * w, nz * w);
  addAt(at + 6, w * focus / (focus + way));
}
