import type { Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
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

/** Pictures of a scene that are loaded at a time: those of a run are rendered by turns, and each is another part of the scene. */
const MOST_LOADED = 3;

/** What of a recipe makes another picture of the same scene. */
const pictureKey = ({ scope, clay, displacement }: Recipe): string => JSON.stringify([scope, clay, displacement]);

/** A picture of a scene: by which recipe, camera and frame. */
export interface Standing {
  revision: string;
  recipe: Recipe;
  camera: string;
  /** Frame of the shot; null means its first. */
  frame: number | null;
}

/** A worker's threads, with the pictures that were rendered last loaded in them. */
export class Studio {
  private scene: { revision: string; scene: Scene } | null = null;
  /** By picture, the one that was used last at the end. */
  private readonly pools = new Map<string, RenderPool>();

  constructor(
    private readonly sql: Sql,
    private options: StudioOptions,
  ) {}

  get version(): string {
    return this.options.version;
  }

  /** Renders on another number of threads from the next picture on. */
  resize(threads: number): void {
    if (threads === this.options.threads) return;
    this.close();
    this.options = { ...this.options, threads };
  }

  close(): void {
    for (const pool of this.pools.values()) pool.close();
    this.pools.clear();
    this.scene = null;
  }

  /** The scene of a revision; throws in words where content is missing. */
  private async load(revision: string): Promise<Scene> {
    const row = await revisionById(this.sql, revision);
    if (!row) throw new Error(`scene revision ${revision} is not there`);
    const loader = new SceneLoader(async (hash) => {
      const bytes = await getBlob(this.sql, hash);
      if (!bytes) throw new Error(`content ${hash.slice(0, 12)} is not there`);
      return bytes;
    });
    const { geometry } = row.document;
    return loader.scene({ ...row.document, geometry: { ...geometry, hash: row.geometry } });
  }

  /** The scene of a revision alone, without threads for it; throws in words where content is missing. */
  async sceneOf(revision: string): Promise<Scene> {
    return this.scene?.revision === revision ? this.scene.scene : this.load(revision);
  }

  /** The scene of a revision with threads that have a picture of it; throws in words where content or camera is missing. */
  async open({
    revision,
    recipe,
    camera: name,
    frame,
  }: Standing): Promise<{ scene: Scene; camera: Camera; pool: RenderPool }> {
    if (this.scene?.revision !== revision) {
      this.close();
      this.scene = { revision, scene: await this.load(revision) };
    }
    const { scene } = this.scene;
    const camera = scene.document.cameras.find((c) => c.name === name);
    if (!camera) throw new Error(`the scene has no camera ${name}`);
    const key = pictureKey(recipe);
    const { module, spawn, threads } = this.options;
    const pool = this.pools.get(key) ?? new RenderPool(module, spawn, threads);
    this.pools.delete(key);
    this.pools.set(key, pool);
    const at = frame ?? scene.document.frames.first;
    if (pool.isLoaded) await pool.stand(scene, recipe, camera, at);
    else await pool.load(scene, recipe, camera, at);
    const [oldest] = this.pools.keys();
    if (this.pools.size > MOST_LOADED) {
      this.pools.get(oldest)!.close();
      this.pools.delete(oldest);
    }
    return { scene, camera, pool };
  }
}
