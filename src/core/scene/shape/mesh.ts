import type { Samples } from '../../image';
import type { MeshEntry, PictureEntry, PictureFormat } from '../document/geometry';

/** Indexed triangles with smooth normals. Positions in metres; counter-clockwise seen from outside. */
export interface Mesh {
  /** 3 a vertex. */
  positions: Float32Array;
  /** 3 a vertex, unit length. */
  normals: Float32Array;
  /** 2 a vertex, v downwards. */
  uvs?: Float32Array;
  /** 3 a triangle. */
  indices: Uint32Array;
}

/** A picture for textures: rows from the top, channels interleaved. */
export interface Picture {
  width: number;
  height: number;
  channels: number;
  values: Samples;
}

const FORMATS = { byte: Uint8Array, word: Uint16Array, float: Float32Array } as const;

/** The format that a document names such samples by. */
export const formatOf = (values: Samples): PictureFormat =>
  values instanceof Uint8Array ? 'byte' : values instanceof Uint16Array ? 'word' : 'float';

/**
 * Lays meshes, then pictures, one after another as the geometry of a document: positions, normals, texture
 * coordinates and indices of each mesh.
 */
export function joinGeometry(
  meshes: Record<string, Mesh>,
  pictures: Record<string, Picture> = {},
): {
  bytes: Uint8Array;
  entries: MeshEntry[];
  pictures: PictureEntry[];
} {
  const parts: (Samples | Uint32Array)[] = [];
  let size = 0;
  const add = (part: Samples | Uint32Array) => {
    const at = size;
    parts.push(part);
    size = (size + part.byteLength + 3) & ~3;
    return at;
  };
  const entries = Object.entries(meshes).map(([name, m]) => {
    const offset = add(m.positions);
    add(m.normals);
    if (m.uvs) add(m.uvs);
    add(m.indices);
    return {
      name,
      vertices: m.positions.length / 3,
      triangles: m.indices.length / 3,
      offset,
      uvs: m.uvs !== undefined,
    };
  });
  const pictureEntries = Object.entries(pictures).map(([name, p]) => {
    const { width, height, channels, values } = p;
    return { name, width, height, channels, format: formatOf(values), offset: add(values) };
  });
  const bytes = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    bytes.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
    at = (at + part.byteLength + 3) & ~3;
  }
  return { bytes, entries, pictures: pictureEntries };
}

/** A view of `bytes` bytes of the geometry at `offset`, copied when it is not aligned for 32-bit numbers. */
function within(geometry: Uint8Array, what: string, offset: number, bytes: number) {
  if (offset % 4 !== 0 || offset + bytes > geometry.byteLength)
    throw new Error(`${what}: ${bytes} bytes at ${offset} exceed the geometry's ${geometry.byteLength}`);
  const at = geometry.byteOffset + offset;
  return at % 4 === 0
    ? { buffer: geometry.buffer as ArrayBuffer, at }
    : { buffer: geometry.slice(offset, offset + bytes).buffer as ArrayBuffer, at: 0 };
}

/** The mesh a geometry entry stands for, as views of `geometry`. */
export function meshAt(geometry: Uint8Array, entry: MeshEntry): Mesh {
  const { vertices, triangles } = entry;
  const uvBytes = entry.uvs ? vertices * 8 : 0;
  const { buffer, at } = within(geometry, `mesh ${entry.name}`, entry.offset, vertices * 24 + uvBytes + triangles * 12);
  return {
    positions: new Float32Array(buffer, at, vertices * 3),
    normals: new Float32Array(buffer, at + vertices * 12, vertices * 3),
    uvs: entry.uvs ? new Float32Array(buffer, at + vertices * 24, vertices * 2) : undefined,
    indices: new Uint32Array(buffer, at + vertices * 24 + uvBytes, triangles * 3),
  };
}

/** The picture a geometry entry stands for, as a view of `geometry`. */
export function pictureAt(geometry: Uint8Array, entry: PictureEntry): Picture {
  const { width, height, channels } = entry;
  const count = width * height * channels;
  const Format = FORMATS[entry.format];
  const size = count * Format.BYTES_PER_ELEMENT;
  const { buffer, at } = within(geometry, `picture ${entry.name}`, entry.offset, size);
  return { width, height, channels, values: new Format(buffer, at, count) };
}

/** Normals of a mesh's vertices: those of the triangles about each, by area. */
export function smoothNormals({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>): Float32Array {
  const out = new Float32Array(positions.length);
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t] * 3;
    const b = indices[t + 1] * 3;
    const c = indices[t + 2] * 3;
    const e0 = positions[b] - positions[a];
    const e1 = positions[b + 1] - positions[a + 1];
    const e2 = positions[b + 2] - positions[a + 2];
    const f0 = positions[c] - positions[a];
    const f1 = positions[c + 1] - positions[a + 1];
    const f2 = positions[c + 2] - positions[a + 2];
    const n0 = e1 * f2 - e2 * f1;
    const n1 = e2 * f0 - e0 * f2;
    const n2 = e0 * f1 - e1 * f0;
    for (let k = 0; k < 3; k++) {
      const i = k === 0 ? a : k === 1 ? b : c;
      out[i] += n0;
      out[i + 1] += n1;
      out[i + 2] += n2;
    }
  }
  for (let i = 0; i < out.length; i += 3) {
    const l = Math.sqrt(out[i] ** 2 + out[i + 1] ** 2 + out[i + 2] ** 2) || 1;
    for (let k = 0; k < 3; k++) out[i + k] /= l;
  }
  return out;
}
