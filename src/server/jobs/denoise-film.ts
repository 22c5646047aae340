import type { DenoisedFigures, DenoisedState } from '@/contract/denoised';
import { DenoiseError, NeighbourError, type Patches, paintSquare } from '@/core/denoise';
import { type FilmLayers, LAYER, noiseOfLayers } from '@/core/film';
import { type Display, displayOf, scaleOf } from '@/core/image';
import type { Camera } from '@/core/scene';
import { renderPatches } from '@/render/advice/patches';
import { denoiseFrame } from '@/render/pool/denoise-frame';
import type { DenoiseOptions } from '@/render/pool/denoiser';
import { faultWords, isAway, patiently } from '../db/away';
import { announce, type Sql } from '../db/connection';
import {
  beginDenoised,
  type DenoisedWork,
  denoisedOf,
  endDenoised,
  giveBackDenoised,
  giveUpDenoised,
  keepDenoised,
  noteDenoised,
} from '../db/denoised';
import { newId } from '../db/ids';
import { revisionById } from '../db/shots';
import { dropPreview, layersOf, savePreview, type TrialRow, trialById } from '../db/trials';
import { filmToDenoise, framesToJoin, residualAt, storeDenoised, tooLarge } from '../films/denoised';
import { readLayers } from '../films/open';
import { planesPreview } from '../films/pictures';
import { Interrupted, Superseded } from './render-film';
import type { Studio } from './studio';

/** Milliseconds between pictures of it, and between looks at whether it is to stop. */
const PREVIEW_MS = 400;

/** Asked to stop by its user. */
class Stopped extends Error {}

/** A film in memory with what is known of it. */
interface Held {
  trial: TrialRow;
  camera: Camera;
  display: Display;
  film: FilmLayers;
  denoised: FilmLayers;
}

/** Denoises films of trials, and holds what came out against patches rendered anew. */
export class DenoiseRunner {
  constructor(
    private readonly sql: Sql,
    private readonly studio: Studio,
    private readonly threads: Pick<DenoiseOptions, 'module' | 'spawn' | 'threads'>,
  ) {}

  /**
   * Denoises a trial's film. `signal` interrupts. Throws when it is to be taken up again: the worker is closing, or the
   * database went away.
   */
  async run(id: string, signal: AbortSignal): Promise<void> {
    const holder = newId();
    const { sql } = this;
    const begun = await patiently(signal, () => beginDenoised(sql, id, holder));
    const trial = begun && (await patiently(signal, () => trialById(sql, id)));
    if (!begun || !trial) return;
    if (begun === 'spent') return this.tell(trial);
    await this.tell(trial);
    try {
      const held = begun.filtered ? await this.taken(trial) : await this.filter(trial, begun, holder, signal);
      await this.judge(held, holder, signal);
    } catch (error) {
      if (error instanceof Superseded) return;
      if (error instanceof Interrupted || isAway(error)) {
        await patiently(signal, () => giveBackDenoised(sql, id, holder)).catch(() => {});
        await this.tell(trial);
        throw error;
      }
      const fault = error instanceof Stopped ? null : faultWords(error);
      await patiently(signal, () => giveUpDenoised(sql, id, holder, fault));
    } finally {
      await dropPreview(sql, id).catch(() => {});
    }
    await this.tell(trial);
  }

  /** Tells the pages that it is in another state, where they can be told. */
  private tell({ id, shot, state }: TrialRow): Promise<void> {
    return announce(this.sql, { type: 'trial', id, shot, state }).catch(() => {});
  }

  /** Looks now and then whether the work is to end, and tells how far it is. */
  private watch(trial: TrialRow, holder: string, state: DenoisedState, closing: AbortSignal) {
    const { sql } = this;
    const mine = new AbortController();
    const started = performance.now();
    let doing = state;
    let fraction = 0;
    let preview = 0;
    let picture: (() => { bytes: Uint8Array; width: number; height: number }) | null = null;
    let busy = false;
    const look = async () => {
      if (busy) return;
      busy = true;
      try {
        const elapsed = performance.now() - started;
        const leftMs = fraction > 0.02 ? elapsed / fraction - elapsed : null;
        const asked = await noteDenoised(sql, trial.id, holder, { state: doing, fraction, leftMs });
        if (asked === 'lost') mine.abort(new Superseded());
        if (asked === 'stop') mine.abort(new Stopped());
        if (picture) {
          const { bytes, width, height } = picture();
          picture = null;
          await savePreview(sql, trial.id, ++preview, width, height, bytes);
        }
        await announce(sql, { type: 'denoising', id: trial.id, shot: trial.shot, fraction, leftMs, preview });
      } catch {
        // A database that is away for a moment must not end work that is going well.
      } finally {
        busy = false;
      }
    };
    const timer = setInterval(() => void look(), PREVIEW_MS);
    void look();
    const interrupt = () => mine.abort(new Interrupted('the worker is closing'));
    closing.addEventListener('abort', interrupt);
    if (closing.aborted) interrupt();
    return {
      signal: mine.signal,
      at: (f: number) => {
        fraction = f;
      },
      storing: () => {
        doing = 'storing';
      },
      show: (p: typeof picture, now: boolean) => {
        picture = p;
        if (now) void look();
      },
      end: () => {
        clearInterval(timer);
        closing.removeEventListener('abort', interrupt);
      },
    };
  }

  /** How a trial's picture is displayed. */
  private async seen(trial: TrialRow): Promise<{ camera: Camera; display: Display }> {
    const revision = await revisionById(this.sql, trial.revision);
    const camera = revision?.document.cameras.find((c) => c.name === trial.camera);
    if (!revision || !camera) throw new Error(`the scene has no camera ${trial.camera}`);
    return { camera, display: displayOf(camera.exposure, revision.document.look) };
  }

  private async filter(trial: TrialRow, work: DenoisedWork, holder: string, closing: AbortSignal): Promise<Held> {
    const { sql } = this;
    const watch = this.watch(trial, holder, 'filtering', closing);
    try {
      const places = await layersOf(sql, trial.id);
      const fault = tooLarge(places);
      if (fault) throw new Error(fault);
      const film = await filmToDenoise(sql, work.film, places);
      if (!film) throw new Error('the film is not there any more');
      const { camera, display } = await this.seen(trial);
      const planes = film.layers.get('beauty')!.planes.map((p) => p.slice());
      const { width, height } = film;
      const { about, neighbours } = work.joins ? await framesToJoin(sql, trial.id) : { about: [], neighbours: [] };
      const done = await denoiseFrame(film, neighbours, {
        ...this.threads,
        display,
        scale: scaleOf(display),
        first: work.first ?? undefined,
        signal: watch.signal,
        onProgress: watch.at,
        onSquare: (square, prepared, n) => {
          paintSquare(prepared, square, planes);
          watch.show(() => ({ bytes: planesPreview(planes), width, height }), n === 1);
        },
      }).catch((error) => {
        const isTold = error instanceof DenoiseError || error instanceof NeighbourError;
        throw isTold ? new Error(`the film cannot be denoised: ${error.message}`) : error;
      });
      watch.storing();
      const { result, layers } = await patiently(closing, () =>
        storeDenoised(sql, done, { spec: trial.spec!, version: this.studio.version }),
      );
      const figures: DenoisedFigures = {
        seconds: done.seconds,
        parts: done.parts,
        noise: noiseOfLayers(film, display),
        hot: done.hot,
        guided: film.layers.has(LAYER.guides('a')),
        ...(work.joins ? { joined: done.joined && { ...done.joined, frames: about } } : {}),
      };
      const made = { hash: result, places: layers };
      const residual = await residualAt(sql, work.film, made, work.strengths, display);
      if (!residual) throw new Error('the film is not there any more');
      if (!(await patiently(closing, () => keepDenoised(sql, trial.id, holder, { figures, residual, result, layers }))))
        throw new Superseded();
      return { trial, camera, display, film, denoised: done.film };
    } finally {
      watch.end();
    }
  }

  /** A film that was filtered before its worker ended. */
  private async taken(trial: TrialRow): Promise<Held> {
    const { sql } = this;
    const made = await denoisedOf(sql, trial.id);
    const film = await filmToDenoise(sql, trial.film!, await layersOf(sql, trial.id));
    const denoised = made?.result && (await readLayers(sql, made.result, () => true));
    if (!film || !denoised) throw new Error('the film is not there any more');
    return { trial, ...(await this.seen(trial)), film, denoised };
  }

  /** Renders patches anew that plain and denoised film can be held against; a stop ends it without them. */
  private async judge(held: Held, holder: string, closing: AbortSignal): Promise<void> {
    const { trial, camera, display, film, denoised } = held;
    await this.tell(trial);
    const watch = this.watch(trial, holder, 'judging', closing);
    let made: { patches: Patches; pixels: Float32Array<ArrayBuffer> } | null = null;
    let fault: string | null = null;
    try {
      const { scene, pool } = await this.studio.open(trial);
      const pixels = trial.pixels.region.width * trial.pixels.region.height;
      const samples = (trial.figures?.samples ?? 0) / pixels;
      made = await renderPatches(
        pool,
        scene,
        camera,
        trial.recipe,
        { plain: film, denoised, display, samples },
        { frame: trial.frame ?? undefined, signal: watch.signal, onProgress: watch.at },
      );
      if (watch.signal.reason instanceof Superseded || watch.signal.reason instanceof Interrupted)
        throw watch.signal.reason;
    } catch (error) {
      if (error instanceof Superseded || error instanceof Interrupted || isAway(error)) throw error;
      // What was denoised stays, whatever comes of holding it against the truth.
      this.studio.close();
      fault = faultWords(error);
    } finally {
      watch.end();
    }
    await patiently(closing, () => endDenoised(this.sql, trial.id, holder, made, fault));
  }
}
