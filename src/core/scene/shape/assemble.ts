import type { SceneDocument } from '../document/document';
import { formMesh } from './form';
import { joinGeometry, type Mesh, type Picture, pictureAt } from './mesh';
import type { Scene } from './scene';

/** Hashes of what a document needs, its geometry first. */
export function neededHashes(document: SceneDocument): string[] {
  const of = document.contents.filter((c) => c.use === 'texture' || c.use === 'environment').map((c) => c.hash);
  return [...new Set([document.geometry.hash, ...of])].filter((h) => h !== '');
}

/** What the geometry of an assembled scene is made of: equal texts mean equal bytes. */
const geometryKey = (d: SceneDocument) =>
  JSON.stringify([d.geometry, d.forms, d.contents.filter((c) => c.use === 'texture')]);

function pictureOf(document: SceneDocument, name: string, bytes: Uint8Array): Picture {
  const entry = { ...document.contents.find((c) => c.name === name)!, offset: 0 };
  return pictureAt(bytes, entry);
}

/**
 * Makes scenes of documents: adds the triangles of forms and the pictures of contents to the geometry. What did not
 * change from one document to the next stays the same object, so that nothing is built anew for it.
 */
export class Assembler {
  private key = '';
  private geometry: { bytes: Uint8Array; entries: SceneDocument['geometry'] } | null = null;
  private readonly pictures = new Map<string, { width: number; height: number; pixels: Float32Array }>();

  /** `bytesOf` gives the content of a hash; throws where it has none. */
  constructor(private readonly bytesOf: (hash: string) => Uint8Array) {}

  scene(document: SceneDocument): Scene {
    const key = geometryKey(document);
    if (!this.geometry || key !== this.key) {
      this.geometry = this.join(document);
      this.key = key;
    }
    const pictures: Scene['pictures'] = new Map();
    for (const c of document.contents) {
      if (c.use !== 'environment') continue;
      let picture = this.pictures.get(c.hash);
      if (!picture) {
        const { width, height, channels, values } = pictureOf(document, c.name, this.bytesOf(c.hash));
        if (channels !== 3 || !(values instanceof Float32Array))
          throw new Error(`environment picture ${c.name} must have three float channels`);
        picture = { width, height, pixels: values };
        this.pictures.set(c.hash, picture);
      }
      pictures.set(c.name, picture);
    }
    return { document: { ...document, geometry: this.geometry.entries }, geometry: this.geometry.bytes, pictures };
  }

  private join(document: SceneDocument): { bytes: Uint8Array; entries: SceneDocument['geometry'] } {
    const { geometry, forms, contents } = document;
    const own = geometry.bytes > 0 ? this.bytesOf(geometry.hash) : new Uint8Array(0);
    const textures = contents.filter((c) => c.use === 'texture');
    if (forms.length === 0 && textures.length === 0) return { bytes: own, entries: geometry };
    const meshes: Record<string, Mesh> = {};
    for (const form of forms) {
      if (geometry.meshes.some((m) => m.name === form.name)) throw new Error(`two meshes are named ${form.name}`);
      meshes[form.name] = formMesh(form);
    }
    const pictures: Record<string, Picture> = {};
    for (const c of textures) {
      if (geometry.pictures.some((p) => p.name === c.name)) throw new Error(`two pictures are named ${c.name}`);
      pictures[c.name] = pictureOf(document, c.name, this.bytesOf(c.hash));
    }
    const added = joinGeometry(meshes, pictures);
    const start = (own.byteLength + 3) & ~3;
    const bytes = new Uint8Array(start + added.bytes.byteLength);
    bytes.set(own);
    bytes.set(added.bytes, start);
    const moved = <T extends { offset: number }>(entries: T[]) =>
      entries.map((e) => ({ ...e, offset: e.offset + start }));
    return {
      bytes,
      entries: {
        hash: geometry.hash,
        bytes: bytes.byteLength,
        meshes: [...geometry.meshes, ...moved(added.entries)],
        pictures: [...geometry.pictures, ...moved(added.pictures)],
      },
    };
  }
}

/** A scene as it was read from a file, with its forms and the pictures beside its geometry (bytes by name) in place. */
export function assembleRead(scene: Scene, contents: ReadonlyMap<string, Uint8Array>): Scene {
  const { document } = scene;
  if (document.forms.length === 0 && document.contents.length === 0) return scene;
  const byHash = new Map(document.contents.map((c) => [c.hash, contents.get(c.name)]));
  const own = document.geometry.hash;
  return new Assembler((hash) => {
    const bytes = hash === own ? scene.geometry : byHash.get(hash);
    if (!bytes) throw new Error(`content ${hash.slice(0, 12)} is not in the file`);
    return bytes;
  }).scene(document);
}
