import { type Factors, LAYER } from '@/core/film';
import { type Headroom, headroom as headroomOf } from '../advice/headroom';
import { type FilmAt, filmAt } from './film-at';
import type { Question } from './question';

interface Asked {
  of: FilmAt;
  groups: string[];
  factors: Factors;
  target: number;
}

/** How far each light group of a film can be lifted from these factors until its noise is above `target`, percent of display white. */
export const headroom: Question<Asked, Headroom | null> = async (desk, { of, groups, factors, target }, { signal }) => {
  const halves = groups.flatMap((g) => [LAYER.half('a', g), LAYER.half('b', g)]);
  const film = await filmAt(desk, of, halves);
  return headroomOf(film, groups, factors, target, desk.sceneExposure, async () => {
    await new Promise((done) => setTimeout(done, 0));
    signal.throwIfAborted();
  });
};
