import { create } from 'zustand';
import type { Prediction } from '@/contract/terms';
import { NOT_DENOISED, parseRecipe, type Recipe } from '@/core/recipe';
import type { Cures, TriedCure } from '@/render/advice/cures/try-cures';
import type { DenoisedAdvice } from '@/render/advice/denoised';
import type { DepthAdvice } from '@/render/advice/depth';
import type { Patient } from '@/render/advice/patient';
import type { SequenceFrame } from '@/render/advice/sequence';
import type { Answer } from '@/render/advice/tuning';
import { useRecipe } from './recipe-store';
import { usePatient } from './scene-now';
import { useScene } from './scene-store';

/** What takes a while: a search for the cheapest recipe, cures tried, frames of the sequence measured. */
export type Asked = 'tune' | 'cures' | 'sequence' | 'advice' | 'clean';

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
  /** What was measured about depth, and on what. */
  advice: DepthAdvice | null;
  adviceOf: Patient | null;
  curesOf: Patient | null;
  /** What the recipe comes to when it is denoised, and what that was measured for. */
  clean: DenoisedAdvice | null;
  cleanOf: Patient | null;
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
  advice: null,
  adviceOf: null,
  curesOf: null,
  clean: null,
  cleanOf: null,
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

/** What pilots told of the scene and recipe as they stand. */
export function useAnswer(): Answer | null {
  const patient = usePatient();
  const answer = useCure((s) => s.answer);
  const of = useCure((s) => s.of);
  return answerFor({ answer, of }, patient);
}

/** What denoising was predicted to make of a recipe with as many samples as it has or will be given; as long as it holds. */
export function cleanFor(
  { clean, cleanOf }: Pick<CureState, 'clean' | 'cleanOf'>,
  patient: Patient | null,
): DenoisedAdvice | null {
  if (!clean || !cleanOf || !patient) return null;
  const rest = ({ document, camera, frame, recipe }: Patient) =>
    JSON.stringify(
      [camera, frame, bare({ ...recipe, denoise: NOT_DENOISED }), countsOf(recipe)].concat(
        document === cleanOf.document ? [] : ['other'],
      ),
    );
  return rest(cleanOf) === rest(patient) ? clean : null;
}
const countsOf = ({ sampling: { splits, lightSamples } }: Recipe) => JSON.stringify([splits, lightSamples]);

/** The recipe that a denoised picture of the wished quality is predicted of. */
export function cleanRecipe(recipe: Recipe, samples: number): Recipe {
  const { sampling } = recipe;
  return {
    ...recipe,
    sampling: { ...sampling, cameraMin: samples, cameraMax: samples, adapt: 'even', stopNoise: 0 },
    denoise: { ...recipe.denoise, on: true, strength: 100 },
  };
}

/** What a recipe is predicted to come to, when it is the one proposed for this scene. */
export function predictionFor(patient: Patient): Prediction | null {
  const clean = cleanFor(useCure.getState(), patient);
  if (clean?.samples && JSON.stringify(cleanRecipe(patient.recipe, clean.samples)) === JSON.stringify(patient.recipe)) {
    const { noise, seconds, error, residual } = clean.predicted;
    return { noise, seconds, denoised: { error, residual } };
  }
  const answer = answerFor(useCure.getState(), patient);
  // A mood's noise is not what the trial will measure.
  const proposal = answer?.forMoods ? null : answer?.proposal;
  const sampling = (r: Recipe) => JSON.stringify(r.sampling);
  return proposal && sampling(proposal.recipe) === sampling(patient.recipe) ? proposal.predicted : null;
}

/** Whether what was asked of one scene, camera and recipe is asked of another; the frame only where it counts. */
function isSame(of: Patient | null, patient: Patient | null, frameCounts: boolean): boolean {
  if (!of || !patient) return false;
  return (
    of.document === patient.document &&
    of.camera === patient.camera &&
    (!frameCounts || of.frame === patient.frame) &&
    (of.recipe === patient.recipe || JSON.stringify(of.recipe) === JSON.stringify(patient.recipe))
  );
}

/** Cures that were tried on just this scene, recipe and region. */
export function curesFor(s: Pick<CureState, 'cures' | 'curesOf'>, patient: Patient | null): Cures | null {
  return isSame(s.curesOf, patient, true) ? s.cures : null;
}

/** Measured frames, as long as scene and recipe are what they were measured for; the frame looked at does not matter. */
export function sequenceFor(
  s: Pick<CureState, 'sequence' | 'sequenceOf'>,
  patient: Patient | null,
): SequenceFrame[] | null {
  return isSame(s.sequenceOf, patient, false) ? s.sequence : null;
}

/** What was measured about the depth of just this. */
export function adviceFor(s: Pick<CureState, 'advice' | 'adviceOf'>, patient: Patient | null): DepthAdvice | null {
  return isSame(s.adviceOf, patient, true) ? s.advice : null;
}

/** Makes a cure: the recipe, or all its steps in the scene as one. */
export function makeCure(cure: TriedCure): void {
  const { document } = cure;
  if (document) useScene.getState().edit(cure.words, () => document);
  // It was tried on a film that keeps what outputs write too: the draft's own stays.
  else useRecipe.getState().replace({ ...cure.recipe, film: useRecipe.getState().recipe!.film });
}
