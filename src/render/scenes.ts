import { Assembler, neededHashes, type Scene, type SceneDocument, sceneSchema } from '@/core/scene';

/** A camera of the scene by name, the first when none is named. */
export function cameraNamed(scene: Scene, name: string | undefined) {
  const { cameras } = scene.document;
  if (name === undefined) return cameras[0];
  return cameras.find((c) => c.name === name) ?? null;
}

/** Makes scenes of stored documents as they are edited; content is asked for once by its hash. */
export class SceneLoader {
  private readonly assembler = new Assembler((hash) => {
    const bytes = this.contents.get(hash);
    if (!bytes) throw new Error(`content ${hash.slice(0, 12)} is not there`);
    return bytes;
  });

  /** `fetchContent` rejects when there is no such content. */
  constructor(
    private readonly fetchContent: (hash: string) => Promise<Uint8Array>,
    private readonly contents = new Map<string, Uint8Array>(),
  ) {}

  /** Another over the same content, for scenes that take turns with this one's. */
  twin(): SceneLoader {
    return new SceneLoader(this.fetchContent, this.contents);
  }

  /** Throws when the document is not valid or its content is missing. */
  scene(document: unknown): Promise<Scene> {
    return this.checked(sceneSchema.parse(document));
  }

  /** The same for a document that is known to be valid. */
  async checked(document: SceneDocument): Promise<Scene> {
    for (const hash of neededHashes(document))
      if (!this.contents.has(hash)) this.contents.set(hash, await this.fetchContent(hash));
    return this.assembler.scene(document);
  }
}
