import type { Patient } from '../advice/patient';
import { measureSequence, type SequenceFrame } from '../advice/sequence';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** What the first, middle and last frame come to. */
export const sequence: Question<{ patient: Patient; threads: number }, SequenceFrame[]> = (
  desk,
  { patient, threads },
  asking,
) => liveOf(desk).borrow((pool) => measureSequence(pool, desk.sceneOf, patient, threads, asking));
