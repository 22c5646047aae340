import type { Document } from '@gltf-transform/core';
import { z } from 'zod';
import { decodePng } from '../image';
import { joinGeometry, type Mesh, type Picture, type Scene, type SceneDocument, sceneSchema } from '../scene';
import { GltfError } from './error';

const extrasSchema = z.object({
  document: sceneSchema,
  floats: z.record(
    z.string(),
    z.object({
      bufferView: z.number().int().min(0),
      width: z.number().int().min(1).max(16384),
      height: z.number().int().min(1).max(16384),
      channels: z.number().int().min(1).max(4),
      environment: z.boolean(),
    }),
  ),
  images: z.record(z.string(), z.number().int().min(0)),
});

interface RawBinary {
  extras?: { lantern?: unknown };
  bufferViews?: { byteOffset?: number; byteLength: number }[];
  images?: { bufferView?: number }[];
}

/** A scene that was written here, read back whole; `contents` are the bytes of pictures kept beside the geometry, by name. */
export interface LanternScene {
  scene: Scene;
  contents: Map<string, Uint8Array>;
}

/**
 * The scene in a GLB's `extras.lantern`, its meshes taken from the file; null where the file has none. Throws
 * `GltfError` where it does not fit the file.
 */
export function readLantern(gltf: Document, json: RawBinary, binary: Uint8Array): LanternScene | null {
  if (json.extras?.lantern === undefined) return null;
  const parsed = extrasSchema.safeParse(json.extras.lantern);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new GltfError(`extras.lantern.${issue.path.join('.')}: ${issue.message}`);
  }
  const { document, floats, images } = parsed.data;
  const view = (index: number | undefined, what: string): Uint8Array => {
    const v = index === undefined ? undefined : json.bufferViews?.[index];
    const from = v?.byteOffset ?? 0;
    if (!v || from + v.byteLength > binary.length) throw new GltfError(`${what}: its bytes are missing`);
    return binary.slice(from, from + v.byteLength);
  };
  const named = new Map(
    gltf
      .getRoot()
      .listMeshes()
      .map((m) => [m.getName(), m]),
  );
  const meshes: Record<string, Mesh> = {};
  for (const { name } of document.geometry.meshes) {
    const primitive = named.get(name)?.listPrimitives()[0];
    const array = (key: string) => primitive?.getAttribute(key)?.getArray();
    const [positions, normals, indices] = [array('POSITION'), array('NORMAL'), primitive?.getIndices()?.getArray()];
    if (!positions || !normals || !indices || normals.length !== positions.length)
      throw new GltfError(`mesh ${name}: the file does not hold it`);
    const uvs = array('TEXCOORD_0');
    meshes[name] = {
      positions: Float32Array.from(positions),
      normals: Float32Array.from(normals),
      indices: Uint32Array.from(indices),
      uvs: uvs ? Float32Array.from(uvs) : undefined,
    };
  }
  const pictureOf = (name: string): Picture => {
    const float = floats[name];
    if (float) {
      const { width, height, channels } = float;
      const bytes = view(float.bufferView, `picture ${name}`);
      if (bytes.length !== width * height * channels * 4) throw new GltfError(`picture ${name}: its size does not fit`);
      return { width, height, channels, values: new Float32Array(bytes.buffer) };
    }
    const index = images[name];
    const bytes = view(index === undefined ? undefined : json.images?.[index]?.bufferView, `picture ${name}`);
    try {
      return decodePng(bytes);
    } catch (error) {
      throw new GltfError(`picture ${name}: ${(error as Error).message}`);
    }
  };
  const bytesOf = (p: Picture) => new Uint8Array(p.values.buffer, p.values.byteOffset, p.values.byteLength);
  const pictures = Object.fromEntries(document.geometry.pictures.map((p) => [p.name, pictureOf(p.name)]));
  const joined = joinGeometry(meshes, pictures);
  const contents = new Map<string, Uint8Array>();
  const kept: SceneDocument['contents'] = [];
  for (const c of document.contents) {
    // What was only looked at beside the scene is not in the file.
    if (c.use === 'reference' || c.use === 'layers') continue;
    contents.set(c.name, bytesOf(pictureOf(c.name)));
    kept.push(c);
  }
  const geometry = { hash: '', bytes: joined.bytes.byteLength, meshes: joined.entries, pictures: joined.pictures };
  return {
    scene: {
      document: { ...document, contents: kept, plates: [], geometry },
      geometry: joined.bytes,
      pictures: new Map(),
    },
    contents,
  };
}
