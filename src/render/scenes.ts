import { type Scene, sceneSchema } from '@/core/scene';

/** A camera of the scene by name, the first when none is named. */
export function cameraNamed(scene: Scene, name: string | undefined) {
  const { cameras } = scene.document;
  if (name === undefined) return cameras[0];
  return cameras.find((c) => c.name === name) ?? null;
}

/** A scene from a stored document and its geometry. Throws when the document is not valid. */
export function sceneFrom(document: unknown, geometry: Uint8Array): Scene {
  return { document: sceneSchema.parse(document), geometry, pictures: new Map() };
}
