import { join } from 'node:path';
import { Film, makeSpec } from '@/core/film';
import { displayOf } from '@/core/image';
import { type Outputs, variantOf } from '@/core/outputs';
import type { Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import { BANDS, type FramePart, type RenderedFrame, type Spent, traceFrame } from '@/render/node/rendered-frame';
import type { RenderPool } from '@/render/pool/pool';
import { patiently } from '../db/away';
import type { Sql } from '../db/connection';
import { type MeasuredFilm, measured, type Rendered } from '../films/store';
import { loadCheckpoint, saveCheckpoint } from '../storage/checkpoints';
import type { Studio } from './studio';

/** Checkpoints come no closer than this, nor than 20 times what the last one took. */
const CHECKPOINT_MS = 30000;
/** By how much sooner with each attempt of which nothing was kept, and no closer than this. */
const SOONER = 4;
const LEAST_CHECKPOINT_MS = 500;

/** Time to the next checkpoint: what keeps ending early is kept early. */
export const checkpointAfter = (attempt: number, lastMs: number): number =>
  Math.max(LEAST_CHECKPOINT_MS, CHECKPOINT_MS / SOONER ** (attempt - 1), (attempt > 2 ? 4 : 20) * lastMs);

/** A job ended because its worker is closing; it will be taken up again from its checkpoint. */
export class Interrupted extends Error {}

/** Somebody else renders it now, since this worker was not heard of: nothing of it may be written any more. */
export class Superseded extends Error {}

/** Its run is paused or ended: it stays where it is, and nobody takes it up until the run goes on. */
export class Later extends Error {}

/** A film to be rendered: what a trial and a frame of a run have in common. */
export interface FilmJob {
  /** The identifier under which it is checkpointed. */
  id: string;
  revision: string;
  recipe: Recipe;
  recipeHash: string;
  /** The outputs of its picture; null for what has none. */
  outputs: Outputs | null;
  camera: string;
  /** Frame of the shot; null means its first. */
  frame: number | null;
  /** Which attempt it is since anything of it was kept, from 1 on. */
  attempt: number;
}

export interface FilmHost<Kept> {
  /** Interrupts: the worker is closing. */
  signal: AbortSignal;
  /** Hears how far it has come, a few times a second; resolves to whether a stop has been asked for. The film is of the whole frame, null where that goes in bands. */
  onProgress: (fraction: number, leftMs: number | null, film: Film | null) => Promise<boolean>;
  /** It has been kept as far as it is. */
  onKept: () => Promise<void>;
  /** Its threads are tracing; heard now and then. */
  onTracing?: () => void;
  /** All samples are there, and the film is about to be measured and stored. */
  onStoring: () => Promise<void>;
  /** Keeps it, or what is made of it; asked again when the database was away. */
  keep: (frame: RenderedFrame, measured: MeasuredFilm) => Promise<Kept>;
}

/** A film that was rendered, measured and kept. */
export interface RenderedFilm<Kept> extends Omit<MeasuredFilm, 'origin'> {
  kept: Kept;
  spec: RenderedFrame['spec'];
  /** False when it was stopped: it can go on later to the same bits. */
  finished: boolean;
  seconds: { load: number; trace: number; calibrated: number; write: number };
}

const added = (a: Spent, b: Spent): Spent => ({
  traceMs: a.traceMs + b.traceMs,
  calibratedMs: a.calibratedMs + b.calibratedMs,
});

/** The film of an interrupted or stopped attempt, when its checkpoint fits. */
async function takeUp(
  sql: Sql,
  id: string,
  spec: Film['spec'],
  part: FramePart,
): Promise<{ film: Film | null; spent: Spent }> {
  const none = { film: null, spent: { traceMs: 0, calibratedMs: 0 } };
  const saved = await loadCheckpoint(sql, id, part);
  if (!saved) return none;
  try {
    return { film: new Film(spec, saved.film), spent: saved.spent };
  } catch {
    return none;
  }
}

/** Asks and tells, one at a time; a database that is away for a moment must not end a render that is going well. */
function relay(
  host: Pick<FilmHost<unknown>, 'onProgress'>,
  { band, bands }: FramePart,
  stop: () => void,
): { tell: (p: { fraction: number; elapsedMs: number }, film: Film) => void } {
  let busy = false;
  return {
    tell: ({ fraction, elapsedMs }, film) => {
      if (busy) return;
      busy = true;
      const left = fraction > 0.005 ? elapsedMs / fraction - elapsedMs : null;
      const all = left === null ? null : left + (elapsedMs + left) * (bands - 1 - band);
      host
        .onProgress((band + fraction) / bands, all, bands === 1 ? film : null)
        .then((asked) => asked && stop())
        .catch(() => {})
        .finally(() => {
          busy = false;
        });
    },
  };
}

async function trace(
  sql: Sql,
  pool: RenderPool,
  scene: Scene,
  camera: Camera,
  job: FilmJob,
  host: Omit<FilmHost<unknown>, 'keep'>,
  part: FramePart,
) {
  const { film: kept, spent } = await takeUp(sql, job.id, makeSpec(job.recipe, scene.document), part);
  const abort = new AbortController();
  const interrupt = () => abort.abort();
  host.signal.addEventListener('abort', interrupt);
  if (host.signal.aborted) abort.abort();
  let stopAsked = false;
  let lastCheckpoint = performance.now();
  let checkpointMs = 0;
  const { tell } = relay(host, part, () => {
    stopAsked = true;
    abort.abort();
  });
  try {
    const { film, finished, traceMs, calibratedMs } = await pool.render(scene, job.recipe, camera, {
      signal: abort.signal,
      film: kept ?? undefined,
      calibrate: true,
      frame: job.frame ?? undefined,
      everyMs: 250,
      onProgress: (progress, film) => {
        host.onTracing?.();
        tell(progress, film);
      },
      onSweep: async (film, _target, so) => {
        if (performance.now() - lastCheckpoint < checkpointAfter(job.attempt, checkpointMs)) return;
        const from = performance.now();
        try {
          await saveCheckpoint(sql, job.id, film.buffer, added(spent, so), part);
          await host.onKept();
          checkpointMs = performance.now() - from;
        } catch {
          // A database that is away or full must not end a render that is going well: it is tried again.
        }
        lastCheckpoint = performance.now();
      },
    });
    const total = added(spent, { traceMs, calibratedMs: calibratedMs ?? 0 });
    // What has been stopped can go on later to the same bits.
    if (host.signal.reason instanceof Superseded) throw host.signal.reason;
    if (!finished) await patiently(host.signal, () => saveCheckpoint(sql, job.id, film.buffer, total, part));
    if (!finished && host.signal.aborted && !stopAsked)
      throw host.signal.reason instanceof Later ? host.signal.reason : new Interrupted('the worker is closing');
    return { film, finished, spent: total };
  } finally {
    host.signal.removeEventListener('abort', interrupt);
  }
}

/**
 * Renders a film to its end or its stop, measures and keeps it; one that does not fit into this machine's memory in bands, to the same bits. Goes on from a
 * checkpoint where there is one. Throws `Interrupted` when the worker closes meanwhile.
 */
export async function renderFilm<Kept>(
  sql: Sql,
  studio: Studio,
  job: FilmJob,
  host: FilmHost<Kept>,
): Promise<RenderedFilm<Kept>> {
  const started = performance.now();
  const { scene, camera, pool } = await studio.open(job);
  const load = performance.now() - started;
  const { document } = scene;
  const display = displayOf(camera.exposure, document.look);
  const of = { recipe: job.recipe, document, display, folder: join(BANDS, job.id) };
  const traced = await traceFrame(of, (recipe, part) =>
    trace(sql, pool, scene, camera, { ...job, recipe }, host, part),
  );
  const { frame, film, finished, spent: total } = traced;
  await host.onStoring().catch(() => {});
  const from = performance.now();
  const origin: Rendered = {
    scene,
    camera,
    frame: job.frame ?? document.frames.first,
    recipe: job.recipe,
    recipeHash: job.recipeHash,
    variant: variantOf(job.outputs),
    traceSeconds: total.traceMs / 1000,
    version: studio.version,
  };
  const { origin: whole, ...told } = measured(frame, traced.figures(), origin);
  const kept = await patiently(host.signal, () => host.keep(frame, { ...told, origin: whole })).catch(async (error) => {
    // Samples that were traced are not to be lost with what could not be stored.
    if (film) await saveCheckpoint(sql, job.id, film.buffer, total).catch(() => {});
    throw error;
  });
  traced.end();
  const write = performance.now() - from;
  const seconds = { load, trace: total.traceMs, calibrated: total.calibratedMs, write };
  return {
    ...told,
    kept,
    spec: frame.spec,
    finished,
    seconds: Object.fromEntries(Object.entries(seconds).map(([k, ms]) => [k, ms / 1000])) as typeof seconds,
  };
}
