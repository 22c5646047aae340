import type { Factors } from '@/core/film';
import type { Patient } from '../advice/patient';
import type { Goal } from '../advice/proposal';
import { type Answer, Tuning } from '../advice/tuning';
import { liveOf } from '../page/desk';
import type { Question } from './question';

const tuning = new Tuning();

/**
 * What doubling each count does, and the cheapest recipe for a goal. `ifKnown` answers from pilots that have been run, and
 * null where there are none for this.
 */
export const tune: Question<
  { patient: Patient; goal: Goal | null; threads: number; ifKnown: boolean; moods: Factors[] },
  Answer | null
> = async (desk, { patient, goal, threads, ifKnown, moods }, asking) => {
  const live = liveOf(desk);
  if (ifKnown && !tuning.has(patient, moods)) return null;
  return live.borrow((pool) => tuning.ask(pool, desk.sceneOf, patient, goal, threads, { ...asking, moods }));
};
