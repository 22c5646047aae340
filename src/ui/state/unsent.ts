import { parseStack, type StackDocument } from '@/core/comp';
import { type Moods, parseMoods } from '@/core/moods';
import { type Outputs, parseOutputs } from '@/core/outputs';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { type SceneDocument, sceneSchema } from '@/core/scene';

/** Edits that a page left behind, on top of a version of a shot's draft. */
export interface Unsent {
  shot: string;
  version: number;
  recipe?: Recipe;
  scene?: SceneDocument;
  outputs?: Outputs;
  moods?: Moods;
  stack?: StackDocument;
}

const KEY = 'lantern-unsent';

/** Keeps edits in the browser; without room for them they are let go. */
export function keepUnsent(unsent: Unsent, storage: Storage = localStorage): void {
  try {
    storage.setItem(KEY, JSON.stringify(unsent));
  } catch {
    storage.removeItem(KEY);
  }
}

/** Takes out what was kept of a shot; what is no longer valid is let go. */
export function unsentOf(shot: string, storage: Storage = localStorage): Unsent | null {
  const text = storage.getItem(KEY);
  if (!text) return null;
  try {
    const kept = JSON.parse(text) as Unsent;
    if (kept.shot !== shot) return null;
    storage.removeItem(KEY);
    return {
      shot,
      version: Number(kept.version),
      recipe: kept.recipe && parseRecipe(kept.recipe),
      scene: kept.scene && sceneSchema.parse(kept.scene),
      outputs: kept.outputs && parseOutputs(kept.outputs),
      moods: kept.moods && parseMoods(kept.moods),
      stack: kept.stack && parseStack(kept.stack),
    };
  } catch {
    storage.removeItem(KEY);
    return null;
  }
}
