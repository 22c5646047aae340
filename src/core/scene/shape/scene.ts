import type { SceneDocument } from '../document/document';
import type { Pose } from './pose';

/** A scene with the bytes its document names. */
export interface Scene {
  document: SceneDocument;
  geometry: Uint8Array;
  /** How objects (by number) move at the frame that is to be traced. */
  poses?: Map<number, Pose>;
  /** Environment pictures by name: linear RGB, top row first. */
  pictures: Map<string, { width: number; height: number; pixels: Float32Array }>;
}
