import { type LightEffect, lightEffects } from '../advice/diagnosis/light-effects';
import type { Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** What each light brings to the picture, and to its noise. */
export const effects: Question<{ patient: Patient }, LightEffect[]> = (desk, { patient }, { signal }) =>
  liveOf(desk).borrow((pool) => lightEffects(pool, desk.sceneOf, patient, signal));
