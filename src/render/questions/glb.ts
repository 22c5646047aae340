import { writeGlb } from '@/core/gltf';
import type { SceneDocument } from '@/core/scene';
import type { Question } from './question';

/** A document with its content as one GLB. */
export const glb: Question<{ document: SceneDocument }, ArrayBuffer> = async (desk, { document }) =>
  writeGlb(document, await desk.loader.twin().checked(document)).buffer as ArrayBuffer;
