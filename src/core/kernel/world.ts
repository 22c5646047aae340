import { exposureScale } from '../image';
import type { Recipe } from '../recipe';
import { type Camera, clayScene, displacedScene, isDisplaced, type Scene } from '../scene';

/**
 * What of a recipe and camera changes the scene that is traced: equal texts mean that a prepared scene can be used again.
 */
export function worldKey(scene: Scene, recipe: Recipe, camera: Camera): string {
  const { on, ...clay } = recipe.clay;
  return JSON.stringify([
    isDisplaced(scene) && recipe.displacement,
    on ? clay : null,
    on && clay.occlusion ? exposureScale(camera.exposure) : null,
  ]);
}

/** The scene as a recipe has it traced: displaced, in clay. */
export function makeWorld(scene: Scene, recipe: Recipe, camera: Camera): Scene {
  const shaped = recipe.displacement ? displacedScene(scene) : scene;
  if (!recipe.clay.on) return shaped;
  return clayScene(shaped, recipe.clay, 1 / exposureScale(camera.exposure));
}
