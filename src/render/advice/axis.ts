import { reachOfBand } from '@/core/film';
import { parseRecipe, type Recipe, withSetting } from '@/core/recipe';

/** What a bounce ledger counts. */
export type DepthAxis = Exclude<Recipe['film']['ledger'], 'off'>;

const PATHS: Record<DepthAxis, string> = {
  all: 'rayDepth.all',
  diffuse: 'rayDepth.diffuse',
  reflection: 'rayDepth.reflection',
  transmission: 'rayDepth.transmission',
  fog: 'rayDepth.fog',
  reach: 'rayDepth.reachMetres',
};

/** A recipe with the limit of an axis, as the ledger counts it. */
export function atLimit(recipe: Recipe, axis: DepthAxis, limit: number): Recipe {
  return parseRecipe(withSetting(recipe, PATHS[axis], axis === 'reach' ? reachOfBand(limit) : limit));
}

/** The limit that a recipe sets on an axis; null for reach, which objects have no limit of. */
export function limitOf({ rayDepth }: Recipe, axis: DepthAxis): number | null {
  if (axis === 'reach') return null;
  return axis === 'all' ? rayDepth.all : Math.min(rayDepth.all, rayDepth[axis]);
}
