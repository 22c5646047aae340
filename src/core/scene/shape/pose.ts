import type { Mesh } from './mesh';

/** Where an object is at even steps over the shutter, at the frame and at the next one. Column-major 4×4. */
export interface Pose {
  steps: (readonly number[])[];
  now: readonly number[];
  next: readonly number[];
  /** Its surface at even steps over the shutter, when it deforms; then at the frame and at the next one. */
  shapes?: Mesh[];
  shapeNow?: Mesh;
  shapeNext?: Mesh;
}
