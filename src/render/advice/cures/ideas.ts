import type { FilmFigures } from '@/core/film';
import type { PathClass } from '@/core/kernel';
import { changeText, parseRecipe, type Recipe, settingAt, withSetting } from '@/core/recipe';

/** A change of one setting against noise. */
export interface RecipeIdea {
  code: string;
  words: string;
  recipe: Recipe;
}

/** Kinds of rays that make up less of all are not tried. */
const LEAST_RAYS = 0.004;
/** Sources with a smaller share of the noise are not gone after. */
const LEAST_NOISE = 0.03;

type Kind = 'diffuse' | 'reflection' | 'transmission' | 'fog';
const KINDS: Kind[] = ['diffuse', 'reflection', 'transmission', 'fog'];

/** Share of the noise that some path classes cause together. */
export function noiseOfClasses({ shares }: Pick<FilmFigures, 'shares'>, classes: PathClass[]): number {
  return (shares?.groupClass ?? [])
    .filter((s) => classes.includes(s.pathClass as PathClass))
    .reduce((sum, s) => sum + s.share, 0);
}

/** One step down from a count of continuation rays: small ones by one, large ones by half. */
const shallower = (depth: number) => (depth > 4 ? Math.ceil(depth / 2) : depth - 1);

/**
 * Settings that may cure what a picture's noise is made of: counts doubled, outlier limits lowered, caustics softened or
 * left out, depths lowered. Kinds of rays that the picture does not have are left out.
 */
export function recipeIdeas(recipe: Recipe, figures: FilmFigures): RecipeIdea[] {
  const { rays } = figures;
  const has = (kind: Kind | 'shadow') => rays[kind] > rays.total * LEAST_RAYS;
  const to: [string, unknown][] = [];
  const value = (path: string) => settingAt(recipe, path) as number;
  for (const kind of KINDS) if (has(kind)) to.push([`sampling.splits.${kind}`, value(`sampling.splits.${kind}`) * 2]);
  if (has('shadow')) to.push(['sampling.lightSamples', value('sampling.lightSamples') * 2]);
  const { first, later } = recipe.sampling.outlierLimit;
  to.push(['sampling.outlierLimit.first', first === null ? 3 : first - 1]);
  to.push(['sampling.outlierLimit.later', later === null ? 3 : later - 1]);
  const sharp = noiseOfClasses(figures, ['caustic', 'indirect_reflection', 'indirect_transmission']);
  if (sharp > LEAST_NOISE)
    to.push([
      'rayDepth.softenCaustics',
      Number(Math.min(1, Math.max(0.15, recipe.rayDepth.softenCaustics + 0.15)).toFixed(2)),
    ]);
  if (recipe.rayDepth.caustics && noiseOfClasses(figures, ['caustic']) > LEAST_NOISE)
    to.push(['rayDepth.caustics', false]);
  for (const kind of KINDS) {
    const depth = Math.min(recipe.rayDepth.all, recipe.rayDepth[kind]);
    if (has(kind) && depth > 0) to.push([`rayDepth.${kind}`, shallower(depth)]);
  }
  return to.flatMap(([path, next]) => {
    try {
      const changed = parseRecipe(withSetting(recipe, path, next));
      return [{ code: path, words: changeText({ path, from: settingAt(recipe, path), to: next }), recipe: changed }];
    } catch {
      // At the end of what the setting can take.
      return [];
    }
  });
}
