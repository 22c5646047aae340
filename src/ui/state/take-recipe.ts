import type { Trial } from '@/contract/trial';
import { unvariedRecipe, variantOf } from '@/core/outputs';
import { useRecipe } from './recipe-store';

/** Takes a trial's recipe as the shot's; of a variant, all but what it differs in. */
export function takeRecipe({ recipe, outputs }: Pick<Trial, 'recipe' | 'outputs'>): void {
  const { recipe: own, replace } = useRecipe.getState();
  if (own) replace(unvariedRecipe(recipe, variantOf(outputs), own));
}
