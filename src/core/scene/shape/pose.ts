import type { Light } from '../document/light';
import type { Mesh } from './mesh';

/** A light at moments of the shutter, and the placement of the object that carries it there, where one does. */
export interface LightPose {
  /** From 0 where the shutter opens to 1 where it closes. */
  times: number[];
  steps: { light: Light; carrier: readonly number[] | null }[];
}

/** Where an object is at moments of the shutter, at the frame and at the next one. Column-major 4×4; straight on between moments. */
export interface Pose {
  steps: (readonly number[])[];
  /** The moments, from 0 where the shutter opens to 1 where it closes. */
  times: number[];
  now: readonly number[];
  next: readonly number[];
  /** Its surface at moments of its own, when it deforms; then at the frame and at the next one. */
  shapes?: Mesh[];
  shapeTimes?: number[];
  shapeNow?: Mesh;
  shapeNext?: Mesh;
}
