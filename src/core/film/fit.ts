import type { Recipe } from '../recipe';
import { emptyPicks, lightGroups, partOf, pickableOf, type SceneDocument } from '../scene';

/** A recipe as it can be used for a scene, and in words what of it would not fit and was left out. */
export interface FittedRecipe {
  recipe: Recipe;
  misfits: string[];
}

/** What a recipe's scope names and a scene has not, by kind and name. */
export function strangers({ receivers, casters, catchers, lights }: Recipe['scope'], document: SceneDocument) {
  const groups = lightGroups(document).map((g) => partOf(g).group);
  const named = new Set([...document.lights, ...document.objects].map((o) => o.name));
  const isThere = ({ kind, name }: NonNullable<typeof lights>[number]) => {
    if (kind === 'group') return groups.includes(name);
    if (kind === 'environment') return document.environment !== null;
    return kind === 'sun' ? document.environment?.kind === 'sky' : named.has(name);
  };
  return [
    ...emptyPicks([...(receivers ?? []), ...(casters ?? []), ...catchers], pickableOf(document)),
    ...(lights ?? []).filter((l) => !isThere(l)),
  ];
}

/** What of a recipe names things that a scene does not have: pairs of groups, exceptions from clay, what is in scope. */
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
  const strange = strangers(recipe.scope, document);
  for (const { kind, name } of strange) misfits.push(`${kind} ${name} in scope: the shot has none of that name`);
  const fits = <T>(list: T[]) => list.filter((l) => !strange.some((s) => JSON.stringify(s) === JSON.stringify(l)));
  const { receivers, casters, catchers, lights } = recipe.scope;
  const scope = {
    ...recipe.scope,
    receivers: receivers && fits(receivers),
    casters: casters && fits(casters),
    catchers: fits(catchers),
    lights: lights && fits(lights),
  };
  if (recipe.rayDepth.fog > 0 && recipe.film.ledger === 'fog' && document.fogs.length === 0)
    misfits.push('bounce ledger of fog: the shot has no fog; the ledger stays empty');
  if (misfits.length === 0) return { recipe, misfits };
  return {
    recipe: { ...recipe, film: { ...recipe.film, pairs }, clay: { ...recipe.clay, except }, scope },
    misfits,
  };
}
