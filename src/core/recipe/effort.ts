import { parseRecipe, type Recipe } from './schema';

const MOST_SAMPLES = 65536;
const MOST_NOISE = 100;

/**
 * A recipe with so many times the camera samples, and with the noise that it stops at where those lead: noise falls with the root of
 * the samples.
 */
export function withSamples(recipe: Recipe, times: number): Recipe {
  const { cameraMin, cameraMax, stopNoise } = recipe.sampling;
  const samples = (n: number) => Math.min(MOST_SAMPLES, Math.max(1, Math.round(n * times)));
  const sampling = {
    cameraMin: samples(cameraMin),
    cameraMax: samples(cameraMax),
    stopNoise: Math.min(MOST_NOISE, stopNoise / Math.sqrt(times)),
  };
  return parseRecipe({ ...recipe, sampling: { ...recipe.sampling, ...sampling } });
}
