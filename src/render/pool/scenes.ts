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
    private readonly coming = new Map<string, Promise<void>>(),
  ) {}

  /** Fetches content once, however many ask for it meanwhile; a failed one may be asked for again. */
  private need(hash: string): Promise<void> {
    if (this.contents.has(hash)) return Promise.resolve();
    const known = this.coming.get(hash);
    if (known) return known;
    const made = this.fetchContent(hash)
      .then((bytes) => {
        this.contents.set(hash, bytes);
      })
      .finally(() => this.coming.delete(hash));
    this.coming.set(hash, made);
    return made;
  }

  /** Another over the same content, for scenes that take turns with this one's. */
  twin(): SceneLoader {
    return new SceneLoader(this.fetchContent, this.contents, this.coming);
  }

  /** Throws when the document is not valid or its content is missing. */
  async scene(document: unknown): Promise<Scene> {
    return this.checked(sceneSchema.parse(document));
  }

  /** The same for a document that is known to be valid. */
  async checked(document: SceneDocument): Promise<Scene> {
    await Promise.all(neededHashes(document).map((hash) => this.need(hash)));
    return this.assembler.scene(document);
  }
}
