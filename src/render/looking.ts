import { type FilmLayers, relight } from '@/core/film';
import { type Camera, cameraAt } from '@/core/scene';
import type { Patient } from './diagnosis/diagnose';
import type { Placement, ProbeValue, Seen } from './film-protocol';
import type { Inspector } from './inspector';
import type { View } from './view';

interface Placed {
  film: FilmLayers;
  place: Placement;
}

export const cameraOf = (patient: Patient) =>
  patient.document.cameras.find((c) => c.name === patient.camera) ?? patient.document.cameras[0];

/** Pixel of a film under a point given as fractions of the frame; null outside of it. */
function pixelAt({ film, place }: Placed, fx: number, fy: number): { x: number; y: number; i: number } | null {
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
    const rgb = relight(one, view.groups, view.balance, 'group.');
    values = rgb ? rgb.map((p, c) => ({ channel: 'RGB'[c], value: p[0] })) : [];
  } else {
    const layer =
      film.layers.get(view.kind === 'color' || view.kind === 'data' ? view.layer : 'beauty') ??
      film.layers.values().next().value;
    values = layer ? layer.channels.slice(0, 4).map((channel, c) => ({ channel, value: layer.planes[c][i] })) : [];
  }
  return { x: x + place.x, y: y + place.y, values };
}

/** What each light group brings to a point of a picture. */
export function groupsOf(got: Placed, groups: readonly string[], fx: number, fy: number): Seen['groups'] {
  const pixel = pixelAt(got, fx, fy);
  if (!pixel) return [];
  return groups.map((group) => ({
    group,
    rgb: got.film.layers
      .get(`group.${group}`)!
      .planes.slice(0, 3)
      .map((p) => p[pixel.i]) as [number, number, number],
  }));
}

/** Distance of a point along a camera's axis. */
export function axialDepth(camera: Camera, frame: number, point: readonly number[]): number {
  const { position, target } = cameraAt(camera, frame);
  const axis = target.map((c, k) => c - position[k]);
  const length = Math.hypot(...axis) || 1;
  return point.reduce((sum, c, k) => sum + ((c - position[k]) * axis[k]) / length, 0);
}

/** What lies under a point of the picture, with what the picture has there. */
export function seeAt(
  inspector: Inspector,
  patient: Patient,
  x: number,
  y: number,
  { rgb, groups }: { rgb: ProbeValue['values'] | undefined; groups: Seen['groups'] },
): Seen {
  const camera = cameraOf(patient);
  const { width, height } = patient.recipe.size;
  const sight = inspector.see(camera, patient.frame, width / height, x, y);
  const object = patient.document.objects.find((o) => o.name === sight.object);
  return {
    ...sight,
    depth: axialDepth(camera, patient.frame, sight.position),
    material: object?.material ?? null,
    rgb: (rgb?.slice(0, 3).map((v) => v.value) as Seen['rgb'] | undefined) ?? null,
    groups,
  };
}
