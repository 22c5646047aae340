import { hostname } from 'node:os';
import { halfPlane, partOf } from '@/core/exr';
import { Film, type FilmSpec, makeLayers, makeSpec, measureFilm } from '@/core/film';
import { type Display, displayOf, encodePng, toDisplayBytes } from '@/core/image';
import { groupColors } from '@/core/kernel';
import { canonicalJson } from '@/core/recipe';
import { cameraAt, type Scene } from '@/core/scene';
import { captureDate, filmAttributes, writeFilm } from '@/render/film-exr';
import { sha256 } from '@/render/node-files';
import { RenderPool } from '@/render/pool';
import type { Tracer } from '@/render/protocol';
import { cameraNamed, SceneLoader } from '@/render/scenes';
import { announce, type Sql } from '../db/connection';
import { revisionById } from '../db/shots';
import {
  beginTrial,
  dropPreview,
  finishTrial,
  noteProgress,
  savePreview,
  setState,
  type TrialRow,
  trialById,
} from '../db/trials';
import { dropCheckpoint, getBlob, loadCheckpoint, putBlob, saveCheckpoint } from '../storage/blobs';

/** Checkpoints come no closer than this, nor than 20 times what the last one took. */
const CHECKPOINT_MS = 30000;
const THUMBNAIL_WIDTH = 236;

/** A job ended because its worker is closing; it will be taken up again from its checkpoint. */
export class Interrupted extends Error {}

export interface RunnerOptions {
  module: WebAssembly.Module;
  spawn: () => Tracer;
  threads: number;
  version: string;
}

/** Renders trials from the queue; keeps the last scene loaded. One trial at a time on a machine. */
export class TrialRunner {
  private loaded: { revision: string; scene: Scene; pool: RenderPool } | null = null;

  constructor(
    private readonly sql: Sql,
    private readonly options: RunnerOptions,
  ) {}

  close(): void {
    this.loaded?.pool.close();
    this.loaded = null;
  }

  private async scene(revision: string): Promise<{ scene: Scene; pool: RenderPool }> {
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

  /** Renders one trial to its end, its stop, or an interruption. `signal` interrupts. */
  async run(id: string, signal: AbortSignal): Promise<void> {
    const lock = await this.sql.reserve();
    const key = Number.parseInt(sha256(hostname()).slice(0, 7), 16);
    try {
      await lock`select pg_advisory_lock(7312, ${key})`;
      if (!(await beginTrial(this.sql, id))) return;
      const trial = await trialById(this.sql, id);
      if (!trial) return;
      await this.tell(trial, 'rendering');
      try {
        await this.render(trial, signal);
      } catch (error) {
        if (error instanceof Interrupted) throw error;
        this.close();
        await setState(this.sql, id, 'failed', (error as Error).message.slice(0, 500));
        await this.tell(trial, 'failed');
      }
    } finally {
      await lock`select pg_advisory_unlock(7312, ${key})`.catch(() => {});
      lock.release();
    }
  }

  private tell(trial: TrialRow, state: string): Promise<void> {
    return announce(this.sql, { type: 'trial', id: trial.id, shot: trial.shot, state });
  }

  private async render(trial: TrialRow, signal: AbortSignal): Promise<void> {
    const started = performance.now();
    const { scene, pool } = await this.scene(trial.revision);
    const camera = cameraNamed(scene, trial.camera);
    if (!camera) throw new Error(`the scene has no camera ${trial.camera}`);
    const load = performance.now() - started;
    const spec = makeSpec(trial.recipe, scene.document);
    const { film: kept, spent } = await this.takeUp(trial.id, spec);
    const abort = new AbortController();
    const onSignal = () => abort.abort();
    signal.addEventListener('abort', onSignal);
    if (signal.aborted) abort.abort();
    const exposure = displayOf(camera.exposure, scene.document.look);
    let stopAsked = false;
    let previews = 0;
    let busy = false;
    let lastPreview = 0;
    let lastCheckpoint = performance.now();
    let checkpointMs = 0;
    const onProgress = (fraction: number, elapsedMs: number, film: Film) => {
      if (busy) return;
      busy = true;
      const left = fraction > 0.005 ? elapsedMs / fraction - elapsedMs : null;
      const work = async () => {
        stopAsked = await noteProgress(this.sql, trial.id, fraction, left);
        if (stopAsked) abort.abort();
        if (performance.now() - lastPreview > 900) {
          lastPreview = performance.now();
          await savePreview(this.sql, trial.id, ++previews, spec.region.width, spec.region.height, previewBytes(film));
        }
        await announce(this.sql, {
          type: 'progress',
          id: trial.id,
          shot: trial.shot,
          fraction,
          leftMs: left,
          preview: previews,
        });
      };
      // A database that is away for a moment must not end a render that is going well.
      work()
        .catch(() => {})
        .finally(() => {
          busy = false;
        });
    };
    try {
      const { film, finished, traceMs, calibratedMs } = await pool.render(scene, trial.recipe, camera, {
        signal: abort.signal,
        film: kept ?? undefined,
        calibrate: true,
        frame: trial.frame ?? undefined,
        everyMs: 250,
        onProgress: (p, film) => onProgress(p.fraction, p.elapsedMs, film),
        onSweep: async (film, _target, so) => {
          if (performance.now() - lastCheckpoint < Math.max(CHECKPOINT_MS, 20 * checkpointMs)) return;
          const from = performance.now();
          await saveCheckpoint(this.sql, trial.id, checkpointBytes(film, added(spent, so)));
          lastCheckpoint = performance.now();
          checkpointMs = lastCheckpoint - from;
        },
      });
      const total = added(spent, { traceMs, calibratedMs: calibratedMs ?? 0 });
      if (!finished && signal.aborted && !stopAsked) {
        await saveCheckpoint(this.sql, trial.id, checkpointBytes(film, total));
        throw new Interrupted('the worker is closing');
      }
      // What has been stopped can go on later to the same bits.
      if (!finished) await saveCheckpoint(this.sql, trial.id, checkpointBytes(film, total));
      await this.store(
        trial,
        film,
        exposure,
        camera,
        { load, trace: total.traceMs, calibrated: total.calibratedMs },
        finished ? 'done' : 'stopped',
        scene,
      );
    } finally {
      signal.removeEventListener('abort', onSignal);
    }
  }

  /** The film of an interrupted attempt, when its checkpoint fits. */
  private async takeUp(id: string, spec: FilmSpec): Promise<{ film: Film | null; spent: Spent }> {
    const saved = await loadCheckpoint(this.sql, id);
    const none = { film: null, spent: { traceMs: 0, calibratedMs: 0 } };
    if (!saved) return none;
    const bytes = saved.length - HEAD_BYTES;
    const buffer = new SharedArrayBuffer(bytes);
    new Uint8Array(buffer).set(saved.subarray(HEAD_BYTES));
    try {
      const head = new DataView(saved.buffer, saved.byteOffset);
      return {
        film: new Film(spec, buffer),
        spent: { traceMs: head.getFloat64(0, true), calibratedMs: head.getFloat64(8, true) },
      };
    } catch {
      return none;
    }
  }

  private async store(
    trial: TrialRow,
    film: Film,
    exposure: Display,
    camera: NonNullable<ReturnType<typeof cameraNamed>>,
    ms: { load: number; trace: number; calibrated: number },
    state: 'done' | 'stopped',
    scene: Scene,
  ): Promise<void> {
    const from = performance.now();
    await setState(this.sql, trial.id, 'storing');
    await this.tell(trial, 'storing');
    const figures = measureFilm(film, exposure);
    const layers = makeLayers(film);
    const attributes = filmAttributes(cameraAt(camera, trial.frame ?? scene.document.frames.first), {
      recipeHash: trial.recipeHash,
      sceneHash: sha256(canonicalJson(scene.document)),
      seed: trial.recipe.sampling.seed,
      noisePercent: figures.noise?.rms ?? null,
      seconds: ms.trace / 1000,
      version: this.options.version,
      frame: trial.frame ?? scene.document.frames.first,
      framesPerSecond: scene.document.frames.perSecond,
      date: captureDate(new Date()),
      aspect: trial.recipe.size.height / trial.recipe.size.width,
      groupColors: groupColors(scene),
    });
    // Kept as float without compression: any depth can be made of it, and packing noise would take longer than storing it.
    const { bytes, extents, partNames } = await writeFilm(layers, film.spec, attributes, {
      depth: 'float',
      compression: 'none',
      multiPart: true,
    });
    const blob = await putBlob(this.sql, bytes);
    await finishTrial(this.sql, trial.id, {
      state,
      seconds: {
        load: ms.load / 1000,
        trace: ms.trace / 1000,
        calibrated: ms.calibrated / 1000,
        write: (performance.now() - from) / 1000,
      },
      noise: figures.noise,
      figures,
      spec: film.spec,
      film: blob,
      thumbnail: thumbnail(layers.layers.get('beauty')!.planes, layers.width, layers.height, exposure),
      layers: [...layers.layers.keys()].map((name) => {
        const part = partNames.indexOf(partOf(name));
        return { name, part, offset: extents[part].offset, bytes: extents[part].bytes };
      }),
    });
    if (state === 'done') await dropCheckpoint(this.sql, trial.id);
    await dropPreview(this.sql, trial.id);
    await this.tell(trial, state);
  }
}

/** Milliseconds traced, by the clock and calibrated. */
interface Spent {
  traceMs: number;
  calibratedMs: number;
}

const added = (a: Spent, b: Spent): Spent => ({
  traceMs: a.traceMs + b.traceMs,
  calibratedMs: a.calibratedMs + b.calibratedMs,
});

const HEAD_BYTES = 16;

/** Two floats of 64 bits, milliseconds traced and calibrated, then the film. */
function checkpointBytes(film: Film, spent: Spent): Uint8Array {
  const out = new Uint8Array(HEAD_BYTES + film.buffer.byteLength);
  const head = new DataView(out.buffer);
  head.setFloat64(0, spent.traceMs, true);
  head.setFloat64(8, spent.calibratedMs, true);
  out.set(new Uint8Array(film.buffer), HEAD_BYTES);
  return out;
}

/** Beauty so far as planar half red, green, blue. */
function previewBytes(film: Film): Uint8Array {
  const size = film.spec.region.width * film.spec.region.height;
  const out = new Uint16Array(size * 3);
  film.beauty().forEach((plane, c) => {
    halfPlane(plane, out.subarray(c * size, (c + 1) * size));
  });
  return new Uint8Array(out.buffer);
}

/** PNG of the beauty, averaged down to the logbook's width. */
export function thumbnail(planes: Float32Array[], width: number, height: number, exposure: Display): Uint8Array {
  const w = Math.min(width, THUMBNAIL_WIDTH);
  const h = Math.max(1, Math.round((height * w) / width));
  const small = planes.map((src) => {
    const out = new Float32Array(w * h);
    for (let y = 0; y < h; y++) {
      const y0 = Math.floor((y * height) / h);
      const y1 = Math.max(y0 + 1, Math.floor(((y + 1) * height) / h));
      for (let x = 0; x < w; x++) {
        const x0 = Math.floor((x * width) / w);
        const x1 = Math.max(x0 + 1, Math.floor(((x + 1) * width) / w));
        let sum = 0;
        for (let j = y0; j < y1; j++) for (let i = x0; i < x1; i++) sum += src[j * width + i];
        out[y * w + x] = sum / ((y1 - y0) * (x1 - x0));
      }
    }
    return out;
  });
  const rgba = new Uint8ClampedArray(w * h * 4);
  toDisplayBytes(small[0], small[1], small[2], w * h, exposure, rgba);
  return encodePng(w, h, rgba);
}
