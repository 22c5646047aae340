import { type Factors, LAYER, RelitHalves } from '@/core/film';
import type { Noise } from '@/core/stats';
import type { SmallPicture } from '../views/place';
import { show } from '../views/show';
import { shrunk } from '../views/shrink';
import { type FilmAt, filmAt } from './film-at';
import type { Question } from './question';

/** A film in a mood: as a small picture, and the noise that the whole of it has; null where its halves are not kept. */
export interface MoodPicture {
  picture: SmallPicture;
  noise: Noise | null;
}

interface Asked {
  of: FilmAt;
  groups: string[];
  factors: Factors;
  across: number;
  /** Whether the picture alone is wanted. */
  isPlain?: boolean;
}

/** A film with its light groups at these factors, so many pixels across. */
export const moodPicture: Question<Asked, MoodPicture | null> = async (
  desk,
  { of, groups, factors, across, isPlain },
) => {
  const film = await filmAt(
    desk,
    of,
    groups.flatMap((g) => [LAYER.group(g), ...(isPlain ? [] : [LAYER.half('a', g), LAYER.half('b', g)])]),
  );
  const shown = show(film, { kind: 'relit', groups, factors }, desk.sceneExposure, null);
  if (!shown) return null;
  const { width, height } = film;
  return {
    picture: shrunk({ width, height, pixels: shown.pixels }, across),
    noise: isPlain ? null : (RelitHalves.of(film, groups, factors, desk.sceneExposure)?.noise() ?? null),
  };
};
