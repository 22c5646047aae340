import type { Accessor } from '@gltf-transform/core';

/** Values of an accessor as they are meant: normalised integers as fractions. */
export function plainValues(accessor: Accessor | null): ArrayLike<number> | null {
  if (!accessor) return null;
  const array = accessor.getArray();
  if (!array || !accessor.getNormalized()) return array;
  const size = accessor.getElementSize();
  const out = new Float32Array(array.length);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) out.set(accessor.getElement(i, element), i * size);
  return out;
}

/** Corners of triangles that a strip (5) or fan (6) of vertices stands for; those of plain triangles (4) as they are. */
export function triangleCorners(mode: number, indices: ArrayLike<number>): Uint32Array {
  if (mode === 4) return Uint32Array.from(indices).subarray(0, indices.length - (indices.length % 3));
  const out = new Uint32Array(Math.max(0, indices.length - 2) * 3);
  for (let t = 0; t < out.length / 3; t++) {
    // Every second triangle of a strip is turned over, so that all face the same way (glTF 2.0, 3.7.2.1).
    const odd = t & 1;
    const corners = mode === 6 ? [t + 1, t + 2, 0] : [t, t + 1 + odd, t + 2 - odd];
    corners.forEach((c, k) => {
      out[t * 3 + k] = indices[c];
    });
  }
  return out;
}
