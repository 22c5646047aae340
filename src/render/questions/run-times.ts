import type { Recipe } from '@/core/recipe';
import type { Patient } from '../advice/patient';
import { predictRun, type ToldFrame } from '../advice/run-times';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** What each picture of a run comes to at some of its frames, and by so many times the samples. */
export const runTimes: Question<
  { patient: Omit<Patient, 'frame'>; recipes: Recipe[]; frames: number[]; samples: number[]; threads: number },
  ToldFrame[][]
> = (desk, { patient, recipes, frames, samples, threads }, asking) =>
  liveOf(desk).borrow((pool) => predictRun(pool, desk.sceneOf, patient, recipes, frames, samples, threads, asking));
