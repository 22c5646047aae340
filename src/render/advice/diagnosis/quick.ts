import { BEAUTY_ALONE, parseRecipe, type Recipe } from '@/core/recipe';

const ACROSS = 96;

/** A recipe small enough to tell brightness in a moment, with one path of each lobe a sample. */
export function quickRecipe(recipe: Recipe, samples: number, film: Partial<Recipe['film']>): Recipe {
  const { width } = recipe.size;
  return parseRecipe({
    ...recipe,
    size: { ...recipe.size, scale: Math.max(1, Math.min(100, (ACROSS / width) * 100)) },
    region: null,
    sampling: {
      ...recipe.sampling,
      cameraMin: samples,
      cameraMax: samples,
      stopNoise: 0,
      splits: { diffuse: 1, reflection: 1, transmission: 1, fog: 1 },
    },
    film: { ...recipe.film, ...BEAUTY_ALONE, groups: recipe.film.groups, ...film },
  });
}
