import { cameraOf, type Patient } from '../advice/patient';
import { type FilmDesk, inspectorOf } from '../page/desk';
import { axialDepth, type Placed, pixelAt, probe } from '../page/probe';
import type { Sight } from '../pool/inspector';
import type { Question } from './question';

/** What lies under a point of the picture. */
export interface Seen extends Sight {
  /** Distance along the camera's axis. */
  depth: number;
  material: string | null;
  /** The picture there, linear. */
  rgb: [number, number, number] | null;
  /** Of it, what each light group brings; empty when groups are not kept. */
  groups: { group: string; rgb: [number, number, number] }[];
}

/** What each light group brings to a point of a picture. */
function groupsOf(got: Placed, groups: readonly string[], fx: number, fy: number): Seen['groups'] {
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

/** What each light group brings to a point of the live picture. */
function liveGroupsAt(desk: FilmDesk, x: number, y: number): Seen['groups'] {
  const names = desk.liveGroups.map((g) => `group.${g}`);
  const film = desk.sources.A?.kind === 'live' ? desk.live?.layers(names) : null;
  const place = desk.live?.place();
  return film && place ? groupsOf({ film, place }, desk.liveGroups, x, y) : [];
}

/** What lies under a point of the picture, at fractions of the frame, with what the picture has there. */
export const see: Question<{ x: number; y: number; patient: Patient }, Seen> = (desk, { x, y, patient }) => {
  const camera = cameraOf(patient);
  const { width, height } = patient.recipe.size;
  const sight = inspectorOf(desk).see(camera, patient.frame, width / height, x, y);
  const object = patient.document.objects.find((o) => o.name === sight.object);
  const rgb = probe(desk.shown.A, desk.views.A, x, y)?.values;
  return {
    ...sight,
    depth: axialDepth(camera, patient.frame, sight.position),
    material: object?.material ?? null,
    rgb: (rgb?.slice(0, 3).map((v) => v.value) as Seen['rgb'] | undefined) ?? null,
    groups: liveGroupsAt(desk, x, y),
  };
};
