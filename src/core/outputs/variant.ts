import { z } from 'zod';
import { canonicalJson, parseRecipe, type Recipe, RecipeError, settingAt, withSetting } from '../recipe';

/** Settings that the picture of an output may differ in: what is in it, how it looks, how long it may take. */
const VARIED = /^(scope|clay|rayDepth|sampling|camera|denoise|film\.occlusion)\.|^(displacement|film\.only)$/;

/** What the picture of an output differs in from the shot's: settings of the recipe by dotted name. All else follows the shot. */
export const variantSchema = z.record(z.string().max(80), z.json());
export type Variant = z.infer<typeof variantSchema>;

export interface Varied {
  variant: Variant | null;
}

/** The recipe of a variant's picture. Throws `RecipeError` for a setting that does not exist, is not allowed or must not vary. */
export function variedRecipe(recipe: Recipe, variant: Variant | null): Recipe {
  if (!variant) return recipe;
  const stray = Object.keys(variant).find((path) => !VARIED.test(path));
  if (stray !== undefined) throw new RecipeError(stray, 'no variant may differ in it');
  let made: unknown = recipe;
  for (const [path, value] of Object.entries(variant)) made = withSetting(made, path, value);
  const { cameraMax } = (made as Recipe).sampling;
  // Fewer samples than the shot has at least: it has no more of them at least, either.
  if (!('sampling.cameraMin' in variant) && typeof cameraMax === 'number' && cameraMax < recipe.sampling.cameraMin)
    made = withSetting(made, 'sampling.cameraMin', cameraMax);
  return parseRecipe(made);
}

const key = (variant: Variant | null) => canonicalJson(variant ?? {});

/** Whether an output is of the picture of a variant. */
export const isOfVariant = ({ variant }: Varied, other: Variant | null): boolean => key(variant) === key(other);

/** The variant whose picture all of these outputs are of, as they are frozen with a trial. */
export const variantOf = (frozen: { list: readonly Varied[] } | null): Variant | null =>
  frozen?.list.find((o) => !isOfVariant(o, null))?.variant ?? null;

/** The pictures that outputs are of, each with its outputs: the shot's own first, then variants in order. */
export function pictures<O extends Varied>(list: readonly O[]): { variant: Variant | null; outputs: O[] }[] {
  const out = new Map<string, { variant: Variant | null; outputs: O[] }>();
  for (const o of [...list].sort((a, b) => Number(!isOfVariant(a, null)) - Number(!isOfVariant(b, null)))) {
    const known = out.get(key(o.variant)) ?? { variant: o.variant, outputs: [] };
    known.outputs.push(o);
    out.set(key(o.variant), known);
  }
  return [...out.values()];
}

/** A recipe that a variant was rendered by, as the shot's own again: what the variant differs in is as `base` has it. */
export function unvariedRecipe(recipe: Recipe, variant: Variant | null, base: Recipe): Recipe {
  if (!variant) return recipe;
  const least = 'sampling.cameraMax' in variant ? ['sampling.cameraMin'] : [];
  let made: unknown = recipe;
  for (const path of [...Object.keys(variant), ...least]) made = withSetting(made, path, settingAt(base, path));
  return parseRecipe(made);
}
