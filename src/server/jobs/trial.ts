import type { Recipe } from '@/core/recipe';
import { faultWords, isAway, patiently } from '../db/away';
import { dropCheckpoint } from '../db/checkpoints';
import { announce, type Sql } from '../db/connection';
import { askDenoisedInside } from '../db/denoised';
import { newId } from '../db/ids';
import type { Inside } from '../db/transaction';
import { beginTrial, failTrial, finishTrial, giveBack, noteKept, noteProgress, noteStoring } from '../db/trial-life';
import { dropPreview, savePreview, type TrialRow, trialById } from '../db/trials';
import { previewBytes } from '../films/pictures';
import { Interrupted, renderFilm, Superseded } from './render-film';
import type { Studio } from './studio';

/** Milliseconds between pictures of a trial under way. */
const PREVIEW_MS = 900;

/** Asks for the denoising that a recipe wants, with the end of its trial. */
const askFor =
  ({ strength, neighbours }: Recipe['denoise'], queue: Inside): Inside =>
  async (tx, id) => {
    const strengths = { all: strength / 100, groups: {} };
    if (await askDenoisedInside(tx, id, { first: null, strengths, joins: neighbours })) await queue(tx, id);
  };

/** Renders trials. */
export class TrialRunner {
  constructor(
    private readonly sql: Sql,
    private readonly studio: Studio,
    /** Asks for a film to be denoised. */
    private readonly denoise: Inside,
  ) {}

  /**
   * Renders one trial to its end, its stop, or an interruption. `signal` interrupts. Throws when the trial is to be taken up
   * again: the worker is closing, or the database went away before there was anything to keep.
   */
  async run(id: string, signal: AbortSignal): Promise<void> {
    const holder = newId();
    const begun = await patiently(signal, () => beginTrial(this.sql, id, holder));
    const trial = begun && (await patiently(signal, () => trialById(this.sql, id)));
    if (!trial) return;
    if (begun === 'spent') return this.tell(trial, 'failed');
    await this.tell(trial, 'rendering');
    try {
      await this.render(trial, begun, holder, signal);
    } catch (error) {
      if (error instanceof Superseded) return;
      if (error instanceof Interrupted || isAway(error)) {
        // A lost database is no fault of the trial: no attempt is counted for it, once that can be written.
        await patiently(signal, () => giveBack(this.sql, id, holder)).catch(() => {});
        await this.tell(trial, 'queued');
        throw error;
      }
      this.studio.close();
      await patiently(signal, () => failTrial(this.sql, id, holder, faultWords(error)));
      await this.tell(trial, 'failed');
    }
  }

  /** Tells the pages, where they can be told: whoever misses it asks when the line is there again. */
  private tell({ id, shot }: TrialRow, state: TrialRow['state']): Promise<void> {
    return announce(this.sql, { type: 'trial', id, shot, state }).catch(() => {});
  }

  private async render(trial: TrialRow, attempt: number, holder: string, closing: AbortSignal): Promise<void> {
    const { sql } = this;
    const { id, shot } = trial;
    const mine = new AbortController();
    const signal = AbortSignal.any([closing, mine.signal]);
    let preview = 0;
    let lastPreview = 0;
    const rendered = await renderFilm(
      sql,
      this.studio,
      { ...trial, attempt },
      {
        signal,
        onProgress: async (fraction, leftMs, film) => {
          const asked = await noteProgress(sql, id, holder, fraction, leftMs);
          if (asked === 'lost') mine.abort(new Superseded());
          if (performance.now() - lastPreview > PREVIEW_MS) {
            lastPreview = performance.now();
            const { width, height } = film.spec.region;
            await savePreview(sql, id, ++preview, width, height, previewBytes(film));
          }
          await announce(sql, { type: 'progress', id, shot, fraction, leftMs, preview });
          return asked === 'stop';
        },
        onKept: () => noteKept(sql, id, holder),
        onStoring: async () => {
          await noteStoring(sql, id, holder);
          await this.tell(trial, 'storing');
        },
      },
    );
    const { finished, seconds, figures, spec, hash, thumbnail, layers } = rendered;
    const state = finished ? 'done' : 'stopped';
    const result = { state, seconds, noise: figures.noise, figures, spec, film: hash, thumbnail, layers } as const;
    const { denoise } = trial.recipe;
    const then = denoise.on && finished ? askFor(denoise, this.denoise) : undefined;
    if (!(await patiently(signal, () => finishTrial(sql, id, holder, result, then)))) throw new Superseded();
    // What is left over of these is swept up later.
    if (finished) await dropCheckpoint(sql, id).catch(() => {});
    await dropPreview(sql, id).catch(() => {});
    await this.tell(trial, state);
  }
}
