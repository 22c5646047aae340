import type { SceneDocument } from './document';

/** Indexed triangles with smooth normals. Positions in metres; counter-clockwise seen from outside. */
export interface Mesh {
  /** 3 a vertex. */
  positions: Float32Array;
  /** 3 a vertex, unit length. */
  normals: Float32Array;
  /** 3 a triangle. */
  indices: Uint32Array;
}

/** Lays meshes one after another as the geometry of a document: positions, normals, indices of each. */
export function joinGeometry(meshes: Record<string, Mesh>): {
  bytes: Uint8Array;
  entries: SceneDocument['geometry']['meshes'];
} {
  const entries: SceneDocument['geometry']['meshes'] = [];
  let size = 0;
  for (const [name, m] of Object.entries(meshes)) {
    entries.push({ name, vertices: m.positions.length / 3, triangles: m.indices.length / 3, offset: size });
    size += m.positions.byteLength + m.normals.byteLength + m.indices.byteLength;
  }
  const bytes = new Uint8Array(size);
  let at = 0;
  for (const m of Object.values(meshes)) {
    for (const part of [m.positions, m.normals, m.indices]) {
      bytes.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
      at += part.byteLength;
    }
  }
  return { bytes, entries };
}

/** The mesh a geometry entry stands for, as views of `geometry`. */
export function meshAt(geometry: Uint8Array, entry: SceneDocument['geometry']['meshes'][number]): Mesh {
  const bytes = entry.vertices * 24 + entry.triangles * 12;
  if (entry.offset % 4 !== 0 || entry.offset + bytes > geometry.byteLength) {
    throw new Error(
      `mesh ${entry.name}: ${bytes} bytes at ${entry.offset} exceed the geometry's ${geometry.byteLength}`,
    );
  }
  const base = geometry.byteOffset + entry.offset;
  const view =
    base % 4 === 0
      ? { buffer: geometry.buffer, at: base }
      : { buffer: geometry.slice(entry.offset, entry.offset + bytes).buffer, at: 0 };
  return {
    positions: new Float32Array(view.buffer as ArrayBuffer, view.at, entry.vertices * 3),
    normals: new Float32Array(view.buffer as ArrayBuffer, view.at + entry.vertices * 12, entry.vertices * 3),
    indices: new Uint32Array(view.buffer as ArrayBuffer, view.at + entry.vertices * 24, entry.triangles * 3),
  };
}
