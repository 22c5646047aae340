import type { Recipe } from '@/core/recipe';
import type { Filtering } from '@/render/node/denoised-frame';
import type { RenderedFrame } from '@/render/node/rendered-frame';
import { faultWords, isAway, patiently } from '../db/away';
import { dropCheckpoint } from '../db/checkpoints';
import { announce, type Sql } from '../db/connection';
import { askDenoisedInside } from '../db/denoised';
import { newId } from '../db/ids';
import { notePacked, type PackedFile } from '../db/run-files';
import { frameOfRun, runOfFrame } from '../db/runs';
import { type Inside, type InsideMany, transaction } from '../db/transaction';
import { beginTrial, failTrial, finishTrial, giveBack, noteKept, noteProgress, noteStoring } from '../db/trial-life';
import { dropPreview, savePreview, type TrialRow, trialById } from '../db/trials';
import { finishWaiting, releaseFilms, type Standing, standingOf, wakeWaiting } from '../db/waiting-frames';
import { packFrame } from '../films/pack';
import { previewBytes } from '../films/pictures';
import { noteSteps } from '../films/steps';
import { type MeasuredFilm, type StoredFilm, storeFilm } from '../films/store';
import { Interrupted, Later, renderFilm, Superseded } from './render-film';
import type { Studio } from './studio';
import { packWaiting } from './waiting-frame';

/** What is kept of a frame: its film, its files, or both. */
interface KeptFrame extends Omit<StoredFilm, 'hash'> {
  hash: string | null;
  files: PackedFile[];
  /** Its small picture where that is another than the film's. */
  thumbnail: Uint8Array | null;
}

/** Milliseconds between pictures of a trial under way. */
const PREVIEW_MS = 900;
/** How long a frame that is traced lets the next one go first at most. */
const NEXT_MS = 1000;
/** Milliseconds between news of a frame of a run under way. */
const FRAME_MS = 1000;

/** Asks for the denoising that a recipe wants, with the end of its trial. */
const askFor =
  ({ strength, neighbours }: Recipe['denoise'], queue: Inside): Inside =>
  async (tx, id) => {
    const strengths = { all: strength / 100, groups: {} };
    if (await askDenoisedInside(tx, id, { first: null, strengths, joins: neighbours })) await queue(tx, id);
  };

/** Renders trials, and frames of runs. */
export class TrialRunner {
  constructor(
    private readonly sql: Sql,
    private readonly studio: Studio,
    /** Asks for a film to be denoised. */
    private readonly denoise: Inside,
    /** What this machine is called. */
    private readonly machine: string | null = null,
    /** What denoises frames of runs. */
    private readonly filtering: Filtering | null = null,
    /** Asks for frames of runs that are to be packed. */
    private readonly frames: InsideMany = async () => {},
  ) {}

  /**
   * Renders one trial to its end, its stop, or an interruption. `signal` interrupts. Throws when the trial is to be taken up
   * again: the worker is closing, or the database went away before there was anything to keep. `free` hears when the threads have
   * done their part of a frame of a run: its files are packed beside the next.
   */
  async run(id: string, signal: AbortSignal, free?: () => void): Promise<void> {
    const holder = newId();
    const begun = await patiently(signal, () => beginTrial(this.sql, id, holder, this.machine));
    const trial = begun && (await patiently(signal, () => trialById(this.sql, id)));
    if (!trial) return;
    if (begun === 'spent') {
      if (trial.run) await this.goOnBeside(trial.run.id).catch(() => {});
      return this.tell(trial, 'failed');
    }
    await this.tell(trial, 'rendering');
    let isFree = false;
    const freed = () => {
      isFree = trial.run !== null && free !== undefined;
      if (isFree) free?.();
      return isFree;
    };
    try {
      const standing = trial.run ? await standingOf(this.sql, id) : null;
      if (standing?.traced) await this.packWaiting(trial, standing, holder, signal);
      else await this.render(trial, { attempt: begun, holder, standing }, signal, freed);
    } catch (error) {
      if (error instanceof Superseded) return;
      const isLater = error instanceof Later;
      if (isLater || error instanceof Interrupted || isAway(error)) {
        // A lost database is no fault of the trial: no attempt is counted for it, once that can be written.
        await patiently(signal, () => giveBack(this.sql, id, holder)).catch(() => {});
        await this.tell(trial, 'queued');
        if (isLater) return;
        throw error;
      }
      // Threads that render something else by now have no part in it.
      if (!isFree) this.studio.close();
      await patiently(signal, () => failTrial(this.sql, id, holder, faultWords(error)));
      if (trial.run) await patiently(signal, () => this.goOnBeside(trial.run!.id));
      await this.tell(trial, 'failed');
    }
  }

  /** Those that wait for the next frame to be traced before they go on. */
  private waiting: (() => void)[] = [];

  private goBy(): void {
    for (const go of this.waiting.splice(0)) go();
  }

  /** Waits until the next frame is being traced, or for a moment: measuring and packing on this thread would keep it from that. */
  private letNextBy(signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      const go = () => {
        clearTimeout(timer);
        signal.removeEventListener('abort', go);
        resolve();
      };
      const timer = setTimeout(go, NEXT_MS);
      this.waiting.push(go);
      signal.addEventListener('abort', go);
    });
  }

  /** After a frame that came to nothing: others wait for it no longer. */
  private goOnBeside(run: string): Promise<void> {
    return transaction(this.sql, async (tx) => {
      await wakeWaiting(tx, run, this.frames);
      await releaseFilms(tx, run);
    });
  }

  /** Packs a frame of a run that was traced, when those that it is made of are there. */
  private async packWaiting(trial: TrialRow, { joins }: Standing, holder: string, signal: AbortSignal): Promise<void> {
    const { sql } = this;
    const { id } = trial;
    const run = trial.run!.id;
    const from = performance.now();
    await patiently(signal, () => noteStoring(sql, id, holder));
    await this.tell(trial, 'storing');
    const { files, thumbnail } = await patiently(signal, () =>
      packWaiting(sql, this.studio, trial, this.filtering, joins),
    );
    const seconds = (performance.now() - from) / 1000;
    const isMine = await patiently(signal, () =>
      transaction(sql, async (tx) => {
        if (!(await finishWaiting(tx, id, holder, { seconds, thumbnail }))) return false;
        await notePacked(tx, run, id, files);
        await releaseFilms(tx, run);
        return true;
      }),
    );
    if (!isMine) throw new Superseded();
    await noteSteps(sql, id).catch(() => {});
    await this.tell(trial, 'done');
  }

  /** Tells the pages, where they can be told: whoever misses it asks when the line is there again. */
  private async tell({ id, shot, run }: TrialRow, state: TrialRow['state']): Promise<void> {
    try {
      const row = run && (await frameOfRun(this.sql, id));
      if (row) await announce(this.sql, { type: 'frame', shot, run: run.id, row });
      else await announce(this.sql, { type: 'trial', id, shot, state });
    } catch {}
  }

  /** Keeps the film of a trial; of a frame of a run its files, and its film where that is wanted. */
  private async keep(
    trial: TrialRow,
    frame: RenderedFrame,
    measured: MeasuredFilm,
    standing: Standing | null,
  ): Promise<KeptFrame> {
    const { sql } = this;
    const none = { hash: null, layers: [], files: [], thumbnail: null };
    if (!trial.run) return { ...none, ...(await storeFilm(sql, frame, measured.origin)) };
    const { id, picture } = trial.run;
    // What waits for others is kept whole until they are there.
    if (standing?.waits || standing?.forOthers) return { ...none, ...(await storeFilm(sql, frame, measured.origin)) };
    const { filtering } = this;
    const packed = await packFrame(sql, frame, measured.origin, { id, picture, frame: trial.frame! }, { filtering });
    const isKept = standing?.lends || (await runOfFrame(sql, id)).keepsFilms;
    return { ...none, ...packed, ...(isKept ? await storeFilm(sql, frame, measured.origin) : {}) };
  }

  private async render(
    trial: TrialRow,
    { attempt, holder, standing }: { attempt: number; holder: string; standing: Standing | null },
    closing: AbortSignal,
    freed: () => boolean,
  ): Promise<void> {
    const { sql } = this;
    const { id, shot } = trial;
    const mine = new AbortController();
    const signal = AbortSignal.any([closing, mine.signal]);
    let preview = 0;
    let lastPreview = 0;
    let lastTold = performance.now();
    const rendered = await renderFilm(
      sql,
      this.studio,
      { ...trial, attempt },
      {
        signal,
        onProgress: async (fraction, leftMs, film) => {
          const asked = await noteProgress(sql, id, holder, fraction, leftMs);
          if (asked === 'lost') mine.abort(new Superseded());
          if (asked === 'later') mine.abort(new Later());
          if (film && performance.now() - lastPreview > PREVIEW_MS) {
            lastPreview = performance.now();
            const { width, height } = film.spec.region;
            await savePreview(sql, id, ++preview, width, height, previewBytes(film));
          }
          if (trial.run && performance.now() - lastTold > FRAME_MS) {
            lastTold = performance.now();
            await this.tell(trial, 'rendering');
          }
          await announce(sql, { type: 'progress', id, shot, fraction, leftMs, preview });
          return asked === 'stop';
        },
        onKept: () => noteKept(sql, id, holder),
        onTracing: () => this.goBy(),
        onStoring: async () => {
          const isNext = freed();
          await noteStoring(sql, id, holder);
          await this.tell(trial, 'storing');
          if (isNext) await this.letNextBy(signal);
        },
        keep: (frame, measured) => this.keep(trial, frame, measured, standing),
      },
    );
    const { finished, seconds, figures, spec, thumbnail, kept } = rendered;
    const waits = standing?.waits && !standing.forOthers;
    const state = finished ? (waits ? 'waiting' : 'done') : 'stopped';
    const result = {
      state,
      seconds,
      noise: figures.noise,
      figures,
      spec,
      film: kept.hash,
      thumbnail: kept.thumbnail ?? thumbnail,
      layers: kept.layers,
    } as const;
    const { denoise } = trial.recipe;
    const then: Inside = async (tx, of) => {
      if (trial.run && !waits && !standing?.forOthers) await notePacked(tx, trial.run.id, of, kept.files);
      if (trial.run && (waits || standing?.lends)) await wakeWaiting(tx, trial.run.id, this.frames);
      if (!trial.run && denoise.on && finished) await askFor(denoise, this.denoise)(tx, of);
    };
    if (!(await patiently(signal, () => finishTrial(sql, id, holder, result, then)))) throw new Superseded();
    if (trial.run && state === 'done') await noteSteps(sql, id).catch(() => {});
    // What is left over of these is swept up later.
    if (finished) await dropCheckpoint(sql, id).catch(() => {});
    await dropPreview(sql, id).catch(() => {});
    await this.tell(trial, state);
  }
}
