import { z } from 'zod';
import type { StackDocument } from '@/core/comp';
import type { Moods } from '@/core/moods';
import type { Outputs } from '@/core/outputs';
import type { Recipe } from '@/core/recipe';
import type { SceneDocument } from '@/core/scene';
import { identifier, shotName } from './terms';

const named = z.object({ id: identifier, name: z.string() });
/** Shots by name, and those that have been taken out of the list. */
export const shotListSchema = z.object({ shots: z.array(named), removed: z.array(named) });
export type ShotList = z.infer<typeof shotListSchema>;

/** A shot as it is opened: what it is called, the scene revision its draft stands on, and the draft. */
export interface ShotData {
  shot: { id: string; name: string; baseline: string | null };
  revision: { id: string; number: number; document: SceneDocument; geometry: string };
  draft: {
    version: number;
    recipe: Recipe;
    revision: string;
    scene: SceneDocument | null;
    outputs: Outputs;
    moods: Moods;
    stack: StackDocument;
  };
}

/** A scene revision in a list: what it changed against the one before. */
export const revisionLineSchema = z.object({
  id: identifier,
  number: z.number(),
  words: z.array(z.string()),
  trials: z.number(),
  createdAt: z.string(),
});
export type RevisionLine = z.infer<typeof revisionLineSchema>;

/** A shot of a scene whose content has been put before. */
export const newShotSchema = z.strictObject({
  name: shotName,
  scene: z.unknown(),
  recipe: z.unknown().optional(),
});

export const editShotSchema = z.strictObject({ name: shotName.optional(), removed: z.boolean().optional() });
export type EditShot = z.infer<typeof editShotSchema>;

/** What of a draft is saved: recipe, scene, outputs, moods, stack; `by` names the tab that saves. */
export const draftChangeSchema = z.strictObject({
  recipe: z.unknown().optional(),
  scene: z.unknown().optional(),
  outputs: z.unknown().optional(),
  moods: z.unknown().optional(),
  stack: z.unknown().optional(),
  by: z.string().max(60).optional(),
});

/** The trial that others are compared with; null for none. */
export const baselineSchema = z.strictObject({ trial: z.string().nullable() });

/** What is there to render with and to store in. */
export const houseSchema = z.object({
  workers: z.number().int(),
  /** Whether a worker on the server's machine puts files into the folders of runs. */
  delivers: z.boolean(),
  storedBytes: z.number(),
});
export type House = z.infer<typeof houseSchema>;
