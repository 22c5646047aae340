import type { Recipe } from '@/core/recipe';
import type { Camera, SceneDocument } from '@/core/scene';

/** What a question about the scene is asked of: scene, recipe, camera and frame as they stand. */
export interface Patient {
  document: SceneDocument;
  recipe: Recipe;
  camera: string;
  frame: number;
}

/** The camera a patient is looked at through; the scene's first where its own is gone. */
export const cameraOf = (patient: Pick<Patient, 'document' | 'camera'>): Camera =>
  patient.document.cameras.find((c) => c.name === patient.camera) ?? patient.document.cameras[0];
