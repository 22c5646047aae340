import { type FilmLayers, relight } from '@/core/film';
import { applied, between } from '@/core/image';
import { type Camera, cameraAt } from '@/core/scene';
import type { Placement } from '../views/place';
import type { View } from '../views/show';
import { stackResult } from '../views/stack';

/** Values of a pixel, by channel. */
export interface ProbeValue {
  x: number;
  y: number;
  values: { channel: string; value: number }[];
}

/** A film and where it lies in its frame. */
export interface Placed {
  film: FilmLayers;
  place: Placement;
}

/** Pixel of a film under a point given as fractions of the frame; null outside of it. */
export function pixelAt({ film, place }: Placed, fx: number, fy: number): { x: number; y: number; i: number } | null {
  const x = Math.floor(fx * place.width) - place.x;
  const y = Math.floor(fy * place.height) - place.y;
  return x < 0 || y < 0 || x >= film.width || y >= film.height ? null : { x, y, i: y * film.width + x };
}

/** Values under a point given as fractions of the frame, of what a view shows. */
export function probe(got: Placed | null, view: View, fx: number, fy: number): ProbeValue | null {
  const pixel = got && pixelAt(got, fx, fy);
  if (!pixel) return null;
  const { place, film } = got;
  const { x, y, i } = pixel;
  let values: ProbeValue['values'] = [];
  if (view.kind === 'relit') {
    const one: FilmLayers = { width: 1, height: 1, layers: new Map() };
    for (const [name, layer] of film.layers)
      one.layers.set(name, { ...layer, planes: layer.planes.map((p) => p.subarray(i, i + 1)) });
    const rgb = relight(one, view.groups, view.factors);
    values = rgb ? rgb.map((p, c) => ({ channel: 'RGB'[c], value: p[0] })) : [];
  } else if (view.kind === 'stack') {
    // Light as the film has it, so that before and after compare.
    const result = stackResult(film);
    const toFilm = between(view.stack.space, 'Rec.709');
    const rgb = result ? applied(toFilm, [result.planes[0][i], result.planes[1][i], result.planes[2][i]]) : [];
    values = rgb.map((v, c) => ({ channel: 'RGB'[c], value: v / view.scale }));
  } else {
    const layer =
      film.layers.get(view.kind === 'color' || view.kind === 'data' ? view.layer : 'beauty') ??
      film.layers.values().next().value;
    values = layer ? layer.channels.slice(0, 4).map((channel, c) => ({ channel, value: layer.planes[c][i] })) : [];
  }
  return { x: x + place.x, y: y + place.y, values };
}

/** Distance of a point along a camera's axis. */
export function axialDepth(camera: Camera, frame: number, point: readonly number[]): number {
  const { position, target } = cameraAt(camera, frame);
  const axis = target.map((c, k) => c - position[k]);
  const length = Math.hypot(...axis) || 1;
  return point.reduce((sum, c, k) => sum + ((c - position[k]) * axis[k]) / length, 0);
}
