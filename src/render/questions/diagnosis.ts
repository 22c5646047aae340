import { type Diagnosis, diagnose } from '../advice/diagnosis/diagnose';
import type { Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** Why the picture looks as it does, each cause tried by its fix. */
export const diagnosis: Question<{ patient: Patient }, Diagnosis> = (desk, { patient }, asking) =>
  liveOf(desk).borrow((pool) => diagnose(pool, desk.sceneOf, patient, asking));
