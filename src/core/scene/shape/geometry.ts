import { joinGeometry, type Mesh, meshAt, type Picture, pictureAt } from './mesh';
import type { Scene } from './scene';

/** The meshes and pictures that a scene's geometry is made of, by name. */
export function geometryOf({ document, geometry }: Scene): {
  meshes: Record<string, Mesh>;
  pictures: Record<string, Picture>;
} {
  return {
    meshes: Object.fromEntries(document.geometry.meshes.map((m) => [m.name, meshAt(geometry, m)])),
    pictures: Object.fromEntries(document.geometry.pictures.map((p) => [p.name, pictureAt(geometry, p)])),
  };
}

/** A scene of other meshes and pictures. Its geometry has no hash until it is kept. */
export function withGeometry(scene: Scene, meshes: Record<string, Mesh>, pictures: Record<string, Picture>): Scene {
  const { bytes, entries, pictures: pictureEntries } = joinGeometry(meshes, pictures);
  const geometry = { hash: '', bytes: bytes.byteLength, meshes: entries, pictures: pictureEntries };
  return { ...scene, geometry: bytes, document: { ...scene.document, geometry } };
}
