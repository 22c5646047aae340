import { type Recipe, withSamples } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import type { RenderPool } from '../pool/pool';
import type { Patient } from './patient';
import { predictPictures } from './pictures';
import type { PilotOptions } from './pilots';
import type { Prediction } from './proposal';

/** What a picture comes to at a frame; null where nothing of it can be told. */
export interface ToldFrame {
  frame: number;
  told: Prediction | null;
  /** By other numbers of samples, as they were asked for. */
  otherwise: (Prediction | null)[];
}

/**
 * What each of several pictures comes to at some frames, told from patches, and by so many times the samples. Times are at speed 1 on
 * so many threads.
 */
export async function predictRun(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Omit<Patient, 'frame'>,
  recipes: readonly Recipe[],
  frames: readonly number[],
  samples: readonly number[],
  threads: number,
  { signal, onStep }: PilotOptions,
): Promise<ToldFrame[][]> {
  const out: ToldFrame[][] = recipes.map(() => []);
  for (const [i, frame] of frames.entries()) {
    const options: PilotOptions = {
      signal,
      onStep: (done, of, words) => onStep?.(i * of + done, frames.length * of, `frame ${frame}: ${words}`),
    };
    const others = (recipe: Recipe) => samples.map((times) => withSamples(recipe, times));
    const told = await predictPictures(pool, sceneOf, { ...patient, frame }, recipes, threads, options, others);
    told.forEach(([own, ...otherwise], p) => {
      out[p].push({ frame, told: own, otherwise });
    });
  }
  return out;
}
