import { create } from 'zustand';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Cures, TriedCure } from '@/render/cures/try-cures';
import type { Patient } from '@/render/diagnosis/diagnose';
import type { Prediction } from '@/render/proposal';
import type { SequenceFrame } from '@/render/sequence';
import type { Answer } from '@/render/tuning';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';

/** What takes a while: a search for the cheapest recipe, cures tried, frames of the sequence measured. */
export type Asked = 'tune' | 'cures' | 'sequence';

interface CureState {
  /** What is under way. */
  step: { what: Asked; done: number; of: number; words: string; startedAt: number } | null;
  stop: (() => void) | null;
  answer: Answer | null;
  /** What the answer was measured for. */
  of: Patient | null;
  /** Cures that were tried, and what they were tried on. */
  cures: Cures | null;
  /** Measured frames of the sequence, and what they were measured for. */
  sequence: SequenceFrame[] | null;
  sequenceOf: Patient | null;
  curesOf: Patient | null;
}

/** The search for the cheapest recipe: pilots, what they told, and the proposal. */
export const useCure = create<CureState>(() => ({
  step: null,
  stop: null,
  answer: null,
  of: null,
  cures: null,
  sequence: null,
  sequenceOf: null,
  curesOf: null,
}));

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

/** Cures that were tried on just this scene, recipe and region. */
export function curesFor(
  { cures, curesOf }: Pick<CureState, 'cures' | 'curesOf'>,
  patient: Patient | null,
): Cures | null {
  if (!cures || !curesOf || !patient) return null;
  const same =
    curesOf.document === patient.document &&
    curesOf.camera === patient.camera &&
    curesOf.frame === patient.frame &&
    (curesOf.recipe === patient.recipe || JSON.stringify(curesOf.recipe) === JSON.stringify(patient.recipe));
  return same ? cures : null;
}

/** Measured frames, as long as scene and recipe are what they were measured for; the frame looked at does not matter. */
export function sequenceFor(
  { sequence, sequenceOf }: Pick<CureState, 'sequence' | 'sequenceOf'>,
  patient: Patient | null,
): SequenceFrame[] | null {
  if (!sequence || !sequenceOf || !patient) return null;
  const { document, camera, recipe } = sequenceOf;
  const same =
    document === patient.document &&
    camera === patient.camera &&
    (recipe === patient.recipe || JSON.stringify(recipe) === JSON.stringify(patient.recipe));
  return same ? sequence : null;
}

/** Makes a cure: the recipe, or all its steps in the scene as one. */
export function makeCure(cure: TriedCure): void {
  const { document } = cure;
  if (document) useScene.getState().edit(cure.words, () => document);
  else useRecipe.getState().replace(cure.recipe);
}
