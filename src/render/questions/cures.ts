import { type Cures, tryCures } from '../advice/cures/try-cures';
import type { Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** What cures the noise of the picture or region, each tried on patches. */
export const cures: Question<{ patient: Patient; threads: number }, Cures> = (desk, { patient, threads }, asking) =>
  liveOf(desk).borrow((pool) => tryCures(pool, desk.sceneOf, patient, threads, asking));
