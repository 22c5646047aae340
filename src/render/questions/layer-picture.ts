import { layerInfo } from '@/core/film';
import type { SmallPicture } from '../views/place';
import { show, type View } from '../views/show';
import { shrunk } from '../views/shrink';
import { type FilmAt, filmAt } from './film-at';
import type { Question } from './question';

/** A layer of a film as a small picture so many pixels across. Null where the film lacks it. */
export const layerPicture: Question<{ of: FilmAt; name: string; across: number }, SmallPicture | null> = async (
  desk,
  { of, name, across },
) => {
  const film = await filmAt(desk, of, [name]);
  const view: View = layerInfo(name).data ? { kind: 'data', layer: name, range: null } : { kind: 'color', layer: name };
  const shown = show(film, view, desk.sceneExposure, null);
  return shown && shrunk({ width: film.width, height: film.height, pixels: shown.pixels }, across);
};
