import { exposureScale } from '../image';
import type { Recipe } from '../recipe';
import {
  type Camera,
  clayScene,
  displacedScene,
  isAnimated,
  isDisplaced,
  isWholeScope,
  litDocument,
  type Scene,
  sceneAt,
  scopedScene,
} from '../scene';

/**
 * What of a recipe, camera and frame changes the scene that is traced: equal texts mean that a prepared scene can be used again.
 */
export function worldKey(scene: Scene, recipe: Recipe, camera: Camera, frame: number): string {
  const { on, ...clay } = recipe.clay;
  return JSON.stringify([
    isDisplaced(scene) && recipe.displacement,
    on ? clay : null,
    isWholeScope(recipe.scope) ? null : recipe.scope,
    on && clay.occlusion ? exposureScale(camera.exposure) : null,
    isAnimated(scene.document) ? [frame, recipe.camera.motionBlur && camera.shutter] : null,
  ]);
}

/** The scene as a recipe has it traced at a frame: what is off dark, placed, displaced, in clay, and no more of it than is in scope. */
export function makeWorld(scene: Scene, recipe: Recipe, camera: Camera, frame: number): Scene {
  const scoped = scopedScene(scene, recipe.scope);
  const lit = { ...scoped, document: litDocument(scoped.document) };
  const placed = sceneAt(lit, frame, recipe.camera.motionBlur ? camera.shutter : null);
  const shaped = recipe.displacement ? displacedScene(placed) : placed;
  if (!recipe.clay.on) return shaped;
  return clayScene(shaped, recipe.clay, 1 / exposureScale(camera.exposure));
}
