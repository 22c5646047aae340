import { z } from 'zod';
import { parseStack, type StackDocument } from '../comp';
import { type Moods, parseMoods } from '../moods';
import { type Outputs, parseOutputs } from '../outputs';
import { parseRecipe, type Recipe } from '../recipe';
import { type SceneDocument, sceneSchema } from '../scene';

/** A shot whole, but for the content that its scene names by hash. */
export interface ShotPackage {
  schema: 1;
  /** What it was written by. */
  program: string;
  name: string;
  scene: SceneDocument;
  recipe: Recipe;
  outputs: Outputs;
  moods: Moods;
  stack: StackDocument;
}

/** The file of a package that holds the shot, and the folder of its content, a file a hash. */
export const SHOT_FILE = 'shot.json';
export const CONTENT_FOLDER = 'content/';

const outerSchema = z.strictObject({
  schema: z.literal(1),
  program: z.string().max(200),
  name: z.string().trim().min(1).max(120),
  scene: z.unknown(),
  recipe: z.unknown(),
  outputs: z.unknown(),
  moods: z.unknown(),
  stack: z.unknown(),
});

/** A package as its file holds it, checked; settings that did not exist when it was written have their defaults. Throws in words. */
export function parsePackage(value: unknown): ShotPackage {
  const outer = outerSchema.parse(value);
  return {
    ...outer,
    scene: sceneSchema.parse(outer.scene),
    recipe: parseRecipe(outer.recipe),
    outputs: parseOutputs(outer.outputs),
    moods: parseMoods(outer.moods),
    stack: parseStack(outer.stack),
  };
}

/** Hashes of all content of a scene: its geometry, pictures, plates and tables. */
export const contentHashes = ({ geometry, contents }: SceneDocument): string[] =>
  [...new Set([geometry.hash, ...contents.map((c) => c.hash)])].filter((h) => h !== '');
