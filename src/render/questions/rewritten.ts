import type { Factors } from '@/core/film';
import type { SceneDocument } from '@/core/scene';
import type { Patient } from '../advice/patient';
import { type Rewritten, rewritten as rewrittenOf } from '../advice/rewritten';
import { liveOf } from '../page/desk';
import type { Question } from './question';

interface Asked {
  patient: Patient;
  to: SceneDocument;
  before: Factors;
  after: Factors;
}

/** How far the scene as a mix was written to its lights is from what the mix showed, on patches that are traced anew. */
export const rewritten: Question<Asked, Rewritten> = (desk, { patient, to, before, after }, { signal, onStep }) => {
  const live = liveOf(desk);
  const options = {
    signal,
    onStep: (done: number, of: number) => onStep(done, of, 'patches'),
    samplesPerSecond: live.lastSpeed(),
  };
  return live.borrow((pool) => rewrittenOf(pool, desk.sceneOf, patient, to, { before, after }, options));
};
