import type { Scene, SceneDocument } from '@/core/scene';
import type { Question } from './question';

/** Meshes of a scene as they lie in its geometry. */
export interface SpaceGeometry {
  bytes: ArrayBuffer;
  /** Low and high corners of each mesh, in the place of `bytes`, where all together are too large to be drawn. */
  boxes: Record<string, [number[], number[]]> | null;
  meshes: SceneDocument['geometry']['meshes'];
}

/** Triangles that the working view draws at most, each mesh counted once. */
const MOST_TRIANGLES = 6e6;

/** Meshes of a scene for the working view: themselves, or the boxes around them where they are too many. */
export function spaceGeometry({ geometry, document }: Scene, most = MOST_TRIANGLES): SpaceGeometry {
  const { meshes } = document.geometry;
  if (meshes.reduce((n, m) => n + m.triangles, 0) <= most)
    return { bytes: geometry.slice().buffer as ArrayBuffer, boxes: null, meshes };
  const boxes: SpaceGeometry['boxes'] = {};
  for (const m of meshes) {
    const places = new Float32Array(geometry.buffer, geometry.byteOffset + m.offset, m.vertices * 3);
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    for (let i = 0; i < places.length; i++) {
      const k = i % 3;
      if (places[i] < low[k]) low[k] = places[i];
      if (places[i] > high[k]) high[k] = places[i];
    }
    boxes[m.name] = [low, high];
  }
  return { bytes: new ArrayBuffer(0), boxes, meshes };
}

/** Triangles of a scene for the working view of the space. */
export const geometry: Question<{ document: SceneDocument }, SpaceGeometry> = async (desk, { document }) =>
  spaceGeometry(await desk.sceneOf(document));
