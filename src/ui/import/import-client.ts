import type { Content, SceneDocument } from '@/core/scene';
import type { FromImport, ToImport } from '@/render/import/protocol';

export type ReadMessage = Extract<FromImport, { type: 'read' }>;
/** What a picture is for. */
type PictureUse = Exclude<Content['use'], 'layers'>;
export type StepListener = (words: string, fraction: number) => void;

/** The page's end of an import worker, which holds the scene that was read until it is kept or closed. */
export class ImportClient {
  private readonly worker = new Worker(new URL('../../render/import/import.worker.ts', import.meta.url), {
    type: 'module',
  });

  constructor(private readonly onStep: StepListener = () => {}) {}

  private ask<T extends FromImport['type']>(message: ToImport, answer: T): Promise<Extract<FromImport, { type: T }>> {
    return new Promise((resolve, reject) => {
      this.worker.onmessage = (event: MessageEvent<FromImport>) => {
        const m = event.data;
        if (m.type === 'step') this.onStep(m.words, m.fraction);
        else if (m.type === 'failed') reject(new Error(m.message));
        else if (m.type === answer) resolve(m as Extract<FromImport, { type: T }>);
      };
      this.worker.onerror = (event) => reject(new Error(event.message || 'the import worker failed'));
      this.worker.postMessage(message);
    });
  }

  readScene(files: { path: string; file: File }[]): Promise<ReadMessage> {
    return this.ask({ type: 'scene', files }, 'read');
  }

  /** Stores what was read and returns its document. */
  async keep(fixes: string[]): Promise<SceneDocument> {
    return (await this.ask({ type: 'keep', fixes }, 'kept')).document;
  }

  async layers(file: File): Promise<Content> {
    return (await this.ask({ type: 'layers', file }, 'content')).content;
  }

  async picture(file: File, use: PictureUse): Promise<Content> {
    return (await this.ask({ type: 'picture', file, use }, 'content')).content;
  }

  close(): void {
    this.worker.terminate();
  }
}

/** Reads one picture file and stores it. Rejects in words that name the file and the fault. */
export const importPicture = (file: File, use: PictureUse): Promise<Content> => alone((c) => c.picture(file, use));

/** Stores an OpenEXR file as it is, with what it has. Rejects in words that name the file and the fault. */
export const importLayers = (file: File): Promise<Content> => alone((c) => c.layers(file));

async function alone(ask: (client: ImportClient) => Promise<Content>): Promise<Content> {
  const client = new ImportClient();
  try {
    return await ask(client);
  } finally {
    client.close();
  }
}
