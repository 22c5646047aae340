import { IDENTITY_TRANSFORM } from '../document/transform';
import { meshAt } from './mesh';
import type { Scene } from './scene';

/** Corners of a box in the world, in metres. */
export interface Bounds {
  low: [number, number, number];
  high: [number, number, number];
}

const nothing = (): Bounds => ({ low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] });

type Bounded = Pick<Scene, 'document' | 'geometry'>;

/** Box of each mesh in its own space, made once a mesh. */
function meshBounds(scene: Bounded): (name: string) => Bounds {
  const known = new Map<string, Bounds>();
  return (name) => {
    let box = known.get(name);
    if (!box) {
      box = nothing();
      const entry = scene.document.geometry.meshes.find((m) => m.name === name);
      const positions = entry ? meshAt(scene.geometry, entry).positions : new Float32Array(0);
      for (let i = 0; i < positions.length; i++) {
        const k = i % 3;
        if (positions[i] < box.low[k]) box.low[k] = positions[i];
        if (positions[i] > box.high[k]) box.high[k] = positions[i];
      }
      known.set(name, box);
    }
    return box;
  };
}

/** Boxes of objects in the world, at their first frame; the corners of their own boxes placed. */
export function objectBounds(scene: Bounded): Map<string, Bounds> {
  const of = meshBounds(scene);
  const out = new Map<string, Bounds>();
  for (const o of scene.document.objects) {
    const { low, high } = of(o.mesh);
    const m = o.motion?.[0].transform ?? o.transform ?? IDENTITY_TRANSFORM;
    const box = nothing();
    if (low[0] <= high[0])
      for (let c = 0; c < 8; c++) {
        const p = [0, 1, 2].map((k) => ((c >> k) & 1 ? high[k] : low[k]));
        for (let k = 0; k < 3; k++) {
          const v = m[k] * p[0] + m[4 + k] * p[1] + m[8 + k] * p[2] + m[12 + k];
          box.low[k] = Math.min(box.low[k], v);
          box.high[k] = Math.max(box.high[k], v);
        }
      }
    out.set(o.name, box);
  }
  return out;
}

/** Box of a whole scene; a metre about the origin where it is empty. */
export function sceneBounds(scene: Bounded): Bounds {
  const whole = nothing();
  for (const { low, high } of objectBounds(scene).values())
    for (let k = 0; k < 3; k++) {
      whole.low[k] = Math.min(whole.low[k], low[k]);
      whole.high[k] = Math.max(whole.high[k], high[k]);
    }
  return whole.low[0] <= whole.high[0] ? whole : { low: [-0.5, -0.5, -0.5], high: [0.5, 0.5, 0.5] };
}
