import type { Recipe } from '@/core/recipe';
import type { Patient } from '../advice/patient';
import { relativeTimes } from '../advice/tuning';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** Time of a sample with another recipe over that with the patient's own. */
export const saving: Question<{ patient: Patient; to: Recipe }, number> = (desk, { patient, to }, { signal }) =>
  liveOf(desk).borrow(async (pool) => {
    const scene = await desk.sceneOf(patient.document);
    const cases = [patient.recipe, to].map((recipe) => ({ scene, recipe }));
    const [, ratio] = await relativeTimes(pool, cases, patient, signal);
    return ratio;
  });
