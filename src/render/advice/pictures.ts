import type { Recipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import type { RenderPool } from '../pool/pool';
import { cameraOf, type Patient } from './patient';
import { countsOf, type PilotOptions, Pilots } from './pilots';
import { type Prediction, predictRecipe } from './proposal';
import { bare } from './tuning';

/**
 * What each of several pictures of a scene comes to, told from short renders of patches of it, and then what it would come to by
 * `others` of its recipe, which differ in their samples alone; null where nothing of it can be told, as for one that is black. Times
 * are at speed 1 on so many threads.
 */
export async function predictPictures(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  recipes: readonly Recipe[],
  threads: number,
  { signal, onStep }: PilotOptions,
  others: (recipe: Recipe) => readonly Recipe[] = () => [],
): Promise<(Prediction | null)[][]> {
  const camera = cameraOf(patient);
  const scene = await sceneOf(patient.document);
  const out: (Prediction | null)[][] = [];
  for (const [i, recipe] of recipes.entries()) {
    const counts = countsOf(recipe);
    const pilots = await Pilots.run(pool, scene, bare(recipe), camera, {
      signal,
      frame: patient.frame,
      asItIs: true,
      onStep: (done, of, words) => onStep?.(i * of + done, recipes.length * of, `picture ${i + 1}: ${words}`),
    });
    await pilots.tryCounts(counts);
    out.push(
      [recipe, ...others(recipe)].map((r) => {
        const told = predictRecipe(pilots, r, counts, threads);
        return [told.noise, told.seconds].every((v) => v.value > 0 && Number.isFinite(v.high)) ? told : null;
      }),
    );
  }
  return out;
}
