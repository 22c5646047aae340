import { create } from 'zustand';
import type { Recipe } from '@/core/recipe';
import type { Goal, Prediction } from '@/render/proposal';
import type { Answer } from '@/render/tuning';

interface CureState {
  /** What is under way. */
  step: { done: number; of: number; words: string; startedAt: number } | null;
  stop: (() => void) | null;
  goal: Goal | null;
  answer: Answer | null;
  /** Recipe, scene, camera and frame that the answer was measured for, besides counts and samples. */
  key: string;
}

/** The search for the cheapest recipe: pilots, what they told, and the proposal. */
export const useCure = create<CureState>(() => ({ step: null, stop: null, goal: null, answer: null, key: '' }));

const samplingOf = (r: Recipe) => JSON.stringify([r.sampling, r.size, r.region]);

/** What a recipe is predicted to come to, when it is the one proposed. */
export function predictionFor(recipe: Recipe): Prediction | null {
  const proposal = useCure.getState().answer?.proposal;
  return proposal && samplingOf(proposal.recipe) === samplingOf(recipe) ? proposal.predicted : null;
}
