import { Vector3 } from 'three';
import { IDENTITY_TRANSFORM, type ItemRef, moved, multiply, type SceneDocument } from '@/core/scene';
import { matrixOf } from './glyphs';

export type Mode = 'translate' | 'rotate' | 'scale';
type Vec = [number, number, number];

const tidy = (v: number) => Number(v.toFixed(5));

/** The document with what is chosen moved, turned or sized by a step in the world (column-major 4×4). */
export function transformed(
  document: SceneDocument,
  chosen: readonly ItemRef[],
  step: readonly number[],
  mode: Mode,
): SceneDocument {
  if (mode === 'translate') return moved(document, chosen, [step[12], step[13], step[14]].map(tidy));
  const matrix = matrixOf(step);
  const triple = (p: Vector3): Vec => [tidy(p.x), tidy(p.y), tidy(p.z)];
  const place = (v: readonly number[]) => triple(new Vector3(v[0], v[1], v[2]).applyMatrix4(matrix));
  const turn = (v: readonly number[]) => triple(new Vector3(v[0], v[1], v[2]).transformDirection(matrix));
  const has = (kind: ItemRef['kind'], name: string) => chosen.some((c) => c.kind === kind && c.name === name);
  return {
    ...document,
    objects: document.objects.map((o) =>
      has('object', o.name) ? { ...o, transform: multiply(step, o.transform ?? IDENTITY_TRANSFORM).map(tidy) } : o,
    ),
    lights: document.lights.map((l) => {
      if (!has('light', l.name)) return l;
      const out = { ...l };
      if ('position' in out) out.position = place(out.position);
      if ('facing' in out && mode === 'rotate') out.facing = turn(out.facing);
      return out;
    }),
    cameras: document.cameras.map((c) =>
      has('camera', c.name) ? { ...c, position: place(c.position), target: place(c.target) } : c,
    ),
  };
}
