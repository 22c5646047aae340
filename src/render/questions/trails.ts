import { cameraOf, type Patient } from '../advice/patient';
import { inspectorOf } from '../page/desk';
import type { TrailStep } from '../pool/inspector';
import type { Question } from './question';

/** What happened on the paths of a pixel, at fractions of the frame. */
export const trails: Question<{ x: number; y: number; samples: number; patient: Patient }, TrailStep[][]> = (
  desk,
  { x, y, samples, patient },
) => inspectorOf(desk).trails(patient.recipe, cameraOf(patient), patient.frame, x, y, samples);
