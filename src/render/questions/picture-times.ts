import type { Recipe } from '@/core/recipe';
import type { Patient } from '../advice/patient';
import { predictPictures } from '../advice/pictures';
import type { Prediction } from '../advice/proposal';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** What each picture that leaves a shot comes to, by its recipe; null for one of which nothing can be told. */
export const pictureTimes: Question<{ patient: Patient; recipes: Recipe[]; threads: number }, (Prediction | null)[]> = (
  desk,
  { patient, recipes, threads },
  asking,
) =>
  liveOf(desk).borrow(async (pool) => {
    const told = await predictPictures(pool, desk.sceneOf, patient, recipes, threads, asking);
    return told.map(([own]) => own);
  });
