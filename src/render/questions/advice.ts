import type { DepthAxis } from '../advice/axis';
import { adviseDepth, type DepthAdvice } from '../advice/depth';
import type { Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** How deep each object needs rays, and what limits cost. */
export const advice: Question<{ patient: Patient; axis: DepthAxis }, DepthAdvice> = (desk, { patient, axis }, asking) =>
  liveOf(desk).borrow((pool) => adviseDepth(pool, desk.sceneOf, patient, axis, asking));
