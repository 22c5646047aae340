import { create } from 'zustand';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Patient } from '@/render/diagnosis/diagnose';
import type { Prediction } from '@/render/proposal';
import type { Answer } from '@/render/tuning';

interface CureState {
  /** What is under way. */
  step: { done: number; of: number; words: string; startedAt: number } | null;
  stop: (() => void) | null;
  answer: Answer | null;
  /** What the answer was measured for. */
  of: Patient | null;
}

/** The search for the cheapest recipe: pilots, what they told, and the proposal. */
export const useCure = create<CureState>(() => ({ step: null, stop: null, answer: null, of: null }));

/** A recipe without what pilots vary. */
function bare(recipe: Recipe): string {
  const { splits, lightSamples, cameraMin, cameraMax, adapt, stopNoise } = parseRecipe({}).sampling;
  const varied = { splits, lightSamples, cameraMin, cameraMax, adapt, stopNoise };
  return JSON.stringify({ ...recipe, name: '', sampling: { ...recipe.sampling, ...varied } });
}

/** Whether what was measured for one scene and recipe holds for another: only counts and samples may differ. */
function holds(of: Patient | null, patient: Patient | null): boolean {
  if (!of || !patient) return false;
  return (
    of.document === patient.document &&
    of.camera === patient.camera &&
    of.frame === patient.frame &&
    (of.recipe === patient.recipe || bare(of.recipe) === bare(patient.recipe))
  );
}

/** What pilots told, as long as it holds for the scene and recipe as they stand. */
export function answerFor({ answer, of }: Pick<CureState, 'answer' | 'of'>, patient: Patient | null): Answer | null {
  return holds(of, patient) ? answer : null;
}

/** What a recipe is predicted to come to, when it is the one proposed for this scene. */
export function predictionFor(patient: Patient): Prediction | null {
  const proposal = answerFor(useCure.getState(), patient)?.proposal;
  const sampling = (r: Recipe) => JSON.stringify(r.sampling);
  return proposal && sampling(proposal.recipe) === sampling(patient.recipe) ? proposal.predicted : null;
}
