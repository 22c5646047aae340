import { distance, type FilmLayers, smoothed } from '@/core/film';
import type { Display } from '@/core/image';
import type { Rgb } from '@/core/stats';
import type { FilmOf } from '../views/film-of';
import { croppedTo, type Shown } from '../views/overlap';
import type { Area, Placement, SmallPicture } from '../views/place';
import { show } from '../views/show';
import type { Question } from './question';

/** Pictures of some films beside each other. */
export interface Stills {
  /** Null for a film that has nothing of the area. */
  pictures: (SmallPicture | null)[];
  /** How far each is from the last, percent of display white, both smoothed; null where they are of other sizes. */
  fromLast: (number | null)[];
}

const rgbOf = (film: FilmLayers) => film.layers.get('beauty')!.planes.slice(0, 3) as unknown as Rgb;

/** The same part of some films as screen pixels, and how far each is from the last. */
export function stillsOf(films: readonly Shown[], area: Area | null, exposure: Display): Stills {
  const parts = films.map((f) => (area ? croppedTo(f, area) : f));
  const flat = parts.map((p) => p && smoothed(rgbOf(p.film), p.film.width, p.film.height, exposure));
  const last = parts.at(-1);
  return {
    pictures: parts.map((p) => {
      const shown = p && show(p.film, { kind: 'color', layer: 'beauty' }, exposure, null);
      return shown && { width: p.film.width, height: p.film.height, pixels: shown.pixels };
    }),
    fromLast: parts.map((p, i) => {
      if (!p || !last || p.film.width !== last.film.width || p.film.height !== last.film.height) return null;
      return distance(flat[i]!, flat.at(-1)!, p.film.width, p.film.height).rms;
    }),
  };
}

/** The beauty of some trials, cropped to an area, beside each other. */
export const stills: Question<{ trials: (FilmOf & { frame: Placement })[]; area: Area | null }, Stills> = async (
  desk,
  { trials, area },
) => {
  const films = trials.map(async (t) => ({ film: await desk.cache.film(t, ['beauty']), place: t.frame }));
  return stillsOf(await Promise.all(films), area, desk.sceneExposure);
};
