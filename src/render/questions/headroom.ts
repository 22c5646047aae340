import { type Headroom, headroom as headroomOf } from '../advice/headroom';
import type { Question } from './question';

/** How far each light group of a trial can be lifted until its noise is above `target`, percent of display white. */
export const headroom: Question<{ trial: string; groups: string[]; target: number }, Headroom | null> = async (
  desk,
  { trial, groups, target },
) => {
  const halves = groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
  const film = await desk.cache.film(trial, halves);
  return headroomOf(film, groups, target, desk.sceneExposure, () => new Promise((done) => setTimeout(done, 0)));
};
