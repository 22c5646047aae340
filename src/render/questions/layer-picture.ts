import { layerInfo } from '@/core/film';
import type { FilmOf } from '../page/told';
import type { SmallPicture } from '../views/place';
import { show, type View } from '../views/show';
import { shrunk } from '../views/shrink';
import type { Question } from './question';

/** A layer of a film as a small picture so many pixels across. Null where the film lacks it. */
export const layerPicture: Question<{ of: FilmOf; name: string; across: number }, SmallPicture | null> = async (
  { cache, sceneExposure },
  { of, name, across },
) => {
  const film = await cache.film(of, [name]);
  const view: View = layerInfo(name).data ? { kind: 'data', layer: name, range: null } : { kind: 'color', layer: name };
  const shown = show(film, view, sceneExposure, null);
  return shown && shrunk({ width: film.width, height: film.height, pixels: shown.pixels }, across);
};
