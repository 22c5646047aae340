import type { Recipe } from '../recipe';
import { lightGroups, type SceneDocument } from '../scene';

/** A recipe as it can be used for a scene, and in words what of it would not fit and was left out. */
export interface FittedRecipe {
  recipe: Recipe;
  misfits: string[];
}

/** What of a recipe names things that a scene does not have: pairs of groups, exceptions from clay. */
export function fitRecipe(recipe: Recipe, document: SceneDocument): FittedRecipe {
  const misfits: string[] = [];
  const groups = lightGroups(document);
  const pairs = recipe.film.pairs.filter((p) => {
    const fits = groups.includes(p.group);
    if (!fits) misfits.push(`pair ${p.group} × ${p.class}: the shot has no light group ${p.group}`);
    return fits;
  });
  const named = new Set([
    ...document.objects.map((o) => o.name),
    ...document.materials.map((m) => m.name),
    ...Object.keys(document.sets),
  ]);
  const except = recipe.clay.except.filter((name) => {
    const fits = named.has(name);
    if (!fits) misfits.push(`kept out of clay ${name}: the shot has nothing of that name`);
    return fits;
  });
  if (recipe.rayDepth.fog > 0 && recipe.film.ledger === 'fog' && !document.fog)
    misfits.push('bounce ledger of fog: the shot has no fog; the ledger stays empty');
  if (misfits.length === 0) return { recipe, misfits };
  return {
    recipe: { ...recipe, film: { ...recipe.film, pairs }, clay: { ...recipe.clay, except } },
    misfits,
  };
}
