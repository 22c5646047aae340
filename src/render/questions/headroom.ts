import { type Headroom, headroom as headroomOf } from '../advice/headroom';
import type { FilmOf } from '../page/told';
import type { Question } from './question';

/** How far each light group of a film can be lifted until its noise is above `target`, percent of display white. */
export const headroom: Question<{ of: FilmOf; groups: string[]; target: number }, Headroom | null> = async (
  desk,
  { of, groups, target },
) => {
  const halves = groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
  const film = await desk.cache.film(of, halves);
  return headroomOf(film, groups, target, desk.sceneExposure, () => new Promise((done) => setTimeout(done, 0)));
};
