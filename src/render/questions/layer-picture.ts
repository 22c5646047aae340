import { LAYER, layerInfo } from '@/core/film';
import { type Noise, noiseOf, type Rgb } from '@/core/stats';
import type { FilmOf } from '../page/told';
import type { SmallPicture } from '../views/place';
import { show, type View } from '../views/show';
import { shrunk } from '../views/shrink';
import type { Question } from './question';

/** A layer of a film, small, and its noise alone where it has halves of its own. */
export interface LayerPicture {
  picture: SmallPicture;
  noise: Noise | null;
}

/** A layer of a trial as a small picture so many pixels across; `layers` are those it keeps. Null where it lacks it. */
export const layerPicture: Question<
  { of: FilmOf; name: string; layers: string[]; across: number },
  LayerPicture | null
> = async ({ cache, sceneExposure }, { of, name, layers, across }) => {
  const { family, group, data } = layerInfo(name);
  const halves =
    name === 'beauty' || family === 'group' ? (['a', 'b'] as const).map((h) => LAYER.half(h, group ?? undefined)) : [];
  const hasHalves = halves.length > 0 && halves.every((h) => layers.includes(h));
  const film = await cache.film(of, hasHalves ? [name, ...halves] : [name]);
  const view: View = data ? { kind: 'data', layer: name, range: null } : { kind: 'color', layer: name };
  const shown = show(film, view, sceneExposure, null);
  if (!shown) return null;
  const { width, height } = film;
  const [a, b] = hasHalves ? halves.map((h) => film.layers.get(h)!.planes as unknown as Rgb) : [];
  return {
    picture: shrunk({ width, height, pixels: shown.pixels }, across),
    noise: a && b ? noiseOf(a, b, width, height, sceneExposure) : null,
  };
};
