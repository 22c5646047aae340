import type { SceneDocument } from '../document/document';
import type { LightPose, Pose } from './pose';

/** A scene with the bytes its document names. */
export interface Scene {
  document: SceneDocument;
  geometry: Uint8Array;
  /** How objects (by number) move at the frame that is to be traced. */
  poses?: Map<number, Pose>;
  /** How lights (by number) move over the shutter; those that do not are not in it. */
  lightPoses?: Map<number, LightPose>;
  /** Environment pictures by name: linear RGB, top row first. */
  pictures: Map<string, { width: number; height: number; pixels: Float32Array }>;
}
