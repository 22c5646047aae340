import * as fmath from '../../fmath';
import type { SceneDocument } from '../document/document';
import { DEGREES, IDENTITY_TRANSFORM, multiply, placementOf, tidy, transformOf } from '../document/transform';
import type { ItemRef } from './items';

type Vec = [number, number, number];

function flipped(transform: readonly number[], axis: 0 | 1 | 2): number[] {
  const mirror = [...IDENTITY_TRANSFORM];
  mirror[axis * 5] = -1;
  return multiply(mirror, transform);
}

/** Items in the mirror of the plane through the origin across `axis`. */
export function mirrored(document: SceneDocument, items: readonly ItemRef[], axis: 0 | 1 | 2): SceneDocument {
  const has = (kind: ItemRef['kind'], name: string) => items.some((i) => i.kind === kind && i.name === name);
  const flip = (v: readonly number[]): Vec => v.map((c, k) => (k === axis ? -c : c)) as Vec;
  return {
    ...document,
    objects: document.objects.map((o) =>
      has('object', o.name) ? { ...o, transform: flipped(o.transform ?? IDENTITY_TRANSFORM, axis) } : o,
    ),
    lights: document.lights.map((l) => {
      if (!has('light', l.name)) return l;
      const out = { ...l };
      if ('position' in out) out.position = flip(out.position);
      if ('facing' in out) out.facing = flip(out.facing);
      return out;
    }),
    cameras: document.cameras.map((c) =>
      has('camera', c.name) ? { ...c, position: flip(c.position), target: flip(c.target) } : c,
    ),
  };
}

/** Items moved by a step in the world. */
export function moved(document: SceneDocument, items: readonly ItemRef[], step: readonly number[]): SceneDocument {
  const has = (kind: ItemRef['kind'], name: string) => items.some((i) => i.kind === kind && i.name === name);
  const add = (v: readonly number[]): Vec => v.map((c, k) => c + step[k]) as Vec;
  return {
    ...document,
    objects: document.objects.map((o) => {
      if (!has('object', o.name)) return o;
      const t = [...(o.transform ?? IDENTITY_TRANSFORM)];
      for (let k = 0; k < 3; k++) t[12 + k] += step[k];
      return { ...o, transform: t };
    }),
    lights: document.lights.map((l) =>
      has('light', l.name) && 'position' in l ? { ...l, position: add(l.position) } : l,
    ),
    cameras: document.cameras.map((c) =>
      has('camera', c.name) ? { ...c, position: add(c.position), target: add(c.target) } : c,
    ),
  };
}

/** Items turned to face a point: lights their front, cameras their axis, objects their +z. */
export function aimedAt(document: SceneDocument, items: readonly ItemRef[], point: readonly number[]): SceneDocument {
  const has = (kind: ItemRef['kind'], name: string) => items.some((i) => i.kind === kind && i.name === name);
  const way = (from: readonly number[]): Vec => point.map((c, k) => tidy(c - from[k])) as Vec;
  const some = (v: Vec) => v.some((c) => Math.abs(c) > 1e-9);
  return {
    ...document,
    objects: document.objects.map((o) => {
      if (!has('object', o.name)) return o;
      const p = placementOf(o.transform);
      const [x, y, z] = way(p.position);
      const flat = Math.sqrt(x * x + z * z);
      if (!some([x, y, z])) return o;
      const degrees: Vec = [-fmath.atan2(y, flat) * DEGREES, fmath.atan2(x, z) * DEGREES, 0];
      return { ...o, transform: transformOf({ ...p, degrees }) };
    }),
    lights: document.lights.map((l) => {
      if (!has('light', l.name) || !('facing' in l) || !('position' in l)) return l;
      const facing = way(l.position);
      return some(facing) ? { ...l, facing } : l;
    }),
    cameras: document.cameras.map((c) =>
      has('camera', c.name) && some(way(c.position)) ? { ...c, target: [...point] as Vec } : c,
    ),
  };
}
