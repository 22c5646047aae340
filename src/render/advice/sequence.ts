import type { Scene, SceneDocument } from '@/core/scene';
import { type KeyFrame, scaledBy } from '@/core/stats';
import type { RenderPool } from '../pool/pool';
import { LEAST_OF_EVEN, MOST_OF_EVEN } from './bounds';
import type { Patient } from './patient';
import { countsOf, type PilotOptions, Pilots } from './pilots';
import { type Prediction, predict, predictRecipe } from './proposal';
import { bare } from './tuning';

/** A measured frame of a sequence, with what the recipe as it stands comes to there. */
export interface SequenceFrame extends KeyFrame {
  now: Prediction;
}

const SAMPLES = [4, 8, 16, 32, 64, 128, 256, 512, 1024, 2048, 4096];

/** First, middle and last frame of a sequence, each once. */
export function keyFrames(first: number, last: number): number[] {
  return [...new Set([first, Math.round((first + last) / 2), last])];
}

/**
 * What the frames of a sequence come to by samples: pilots on patches of its first, middle and last frame. Times are at speed
 * 1 on so many threads. A recipe that deals samples out keeps doing so.
 */
export async function measureSequence(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  { document, recipe, camera: name }: Patient,
  threads: number,
  { signal, onStep }: PilotOptions,
): Promise<SequenceFrame[]> {
  const { first, last } = document.frames;
  const frames = keyFrames(first, last);
  const camera = document.cameras.find((c) => c.name === name) ?? document.cameras[0];
  const counts = countsOf(recipe);
  const out: SequenceFrame[] = [];
  for (const [i, frame] of frames.entries()) {
    const pilots = await Pilots.run(pool, await sceneOf(document), bare(recipe), camera, {
      signal,
      frame,
      onStep: (done, of, words) => onStep?.(i * of + done, frames.length * of, `frame ${frame}: ${words}`),
    });
    await pilots.tryCounts(counts);
    const table = SAMPLES.map((samples) => {
      const { noise, seconds } = predict(pilots, samples, counts, threads);
      const saved =
        recipe.sampling.stopNoise > 0 && recipe.sampling.adapt === 'cheapest'
          ? pilots.dealtOut(samples, counts, Math.max(2, samples * LEAST_OF_EVEN), samples * MOST_OF_EVEN).expected
          : 1;
      return {
        samples,
        noise,
        seconds: scaledBy(seconds, saved),
      };
    });
    out.push({ frame, table, now: predictRecipe(pilots, recipe, counts, threads) });
  }
  return out;
}
