import { parseRecipe, type Recipe, withSetting } from '@/core/recipe';
import {
  addSurface,
  type Camera,
  type FieldOwner,
  makeLight,
  makeSky,
  type SceneDocument,
  STARTER_SURFACES,
  withField,
} from '@/core/scene';

/** What would mend a cause: fields of the scene, settings of the recipe, things to add. */
export interface Fix {
  /** As a button says it. */
  label: string;
  fields?: { owner: FieldOwner; path: string; value: unknown }[];
  settings?: { path: string; value: unknown }[];
  add?: 'light' | 'sky';
  /** Objects that get a plain grey surface. */
  grey?: string[];
}

/** The scene with a fix made. Throws where it does not fit the scene any more. */
export function fixScene(document: SceneDocument, camera: Camera, fix: Fix): SceneDocument {
  let out = document;
  if (fix.grey) {
    const grey = new Set(fix.grey);
    const added = addSurface(out, STARTER_SURFACES[0]);
    out = {
      ...added.document,
      objects: added.document.objects.map((o) => (grey.has(o.name) ? { ...o, material: added.name } : o)),
    };
  }
  if (fix.add === 'light') out = makeLight(out, camera, 'rectangle');
  if (fix.add === 'sky') out = { ...out, environment: makeSky(camera.exposure) };
  for (const { owner, path, value } of fix.fields ?? []) out = withField(out, owner, path, value);
  return out;
}

/** The recipe with a fix made. */
export function fixRecipe(recipe: Recipe, fix: Fix): Recipe {
  return (fix.settings ?? []).reduce((r, { path, value }) => parseRecipe(withSetting(r, path, value)), recipe);
}
