import type { SceneDocument } from '@/core/scene';
import type { Patient } from '../advice/patient';
import { type RecordingCost, recordingCost } from '../advice/recording';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** What it costs to keep the light of a scene apart as another document of it does. */
export const recording: Question<{ patient: Patient; to: SceneDocument }, RecordingCost> = (
  desk,
  { patient, to },
  { signal },
) => liveOf(desk).borrow((pool) => recordingCost(pool, desk.sceneOf, patient, to, signal));
