import type { Scene } from '@/core/scene';
import { RenderPool } from '@/render/pool/pool';
import type { Tracer } from '@/render/pool/protocol';
import { SceneLoader } from '@/render/pool/scenes';
import type { Sql } from '../db/connection';
import { revisionById } from '../db/shots';
import { getBlob } from '../storage/blobs';

export interface StudioOptions {
  module: WebAssembly.Module;
  spawn: () => Tracer;
  threads: number;
  version: string;
}

/** A worker's threads, with the scene that was rendered last loaded in them. */
export class Studio {
  private loaded: { revision: string; scene: Scene; pool: RenderPool } | null = null;

  constructor(
    private readonly sql: Sql,
    private readonly options: StudioOptions,
  ) {}

  get version(): string {
    return this.options.version;
  }

  close(): void {
    this.loaded?.pool.close();
    this.loaded = null;
  }

  /** The scene of a revision with threads that have it; throws in words where content is missing. */
  async open(revision: string): Promise<{ scene: Scene; pool: RenderPool }> {
    if (this.loaded?.revision === revision) return this.loaded;
    this.close();
    const row = await revisionById(this.sql, revision);
    if (!row) throw new Error(`scene revision ${revision} is not there`);
    const loader = new SceneLoader(async (hash) => {
      const bytes = await getBlob(this.sql, hash);
      if (!bytes) throw new Error(`content ${hash.slice(0, 12)} is not there`);
      return bytes;
    });
    const { geometry } = row.document;
    const scene = await loader.scene({ ...row.document, geometry: { ...geometry, hash: row.geometry } });
    const pool = new RenderPool(this.options.module, this.options.spawn, this.options.threads);
    await pool.load(scene);
    this.loaded = { revision, scene, pool };
    return this.loaded;
  }
}
