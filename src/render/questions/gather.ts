import type { Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import { gatherFrames } from '../page/reel';
import type { Question } from './question';

/** Renders a coarse picture of frames for playing; tells how many were made. */
export const gather: Question<{ patient: Patient; frames: number[] }, number> = (
  desk,
  { patient, frames },
  { signal, onStep },
) => {
  const live = liveOf(desk);
  return live.borrow((pool) =>
    gatherFrames(
      pool,
      desk.sceneOf,
      patient,
      frames,
      live.lastSpeed(),
      (frame, picture, parted) => {
        desk.reel.keep(frame, picture);
        if (parted) desk.parts.keep(frame, parted);
        desk.reelChanged();
      },
      { signal, onStep: (done, of) => onStep(done, of, 'frames') },
    ),
  );
};
