import { hostname } from 'node:os';
import { dropCheckpoint } from '../db/checkpoints';
import { announce, type Sql } from '../db/connection';
import { withMachineLock } from '../db/machines';
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
import { previewBytes } from '../films/pictures';
import { Interrupted, renderFilm } from './render-film';
import type { Studio } from './studio';

/** Milliseconds between pictures of a trial under way. */
const PREVIEW_MS = 900;

/** Renders trials from the queue. One at a time on a machine, however many workers it has. */
export class TrialRunner {
  constructor(
    private readonly sql: Sql,
    private readonly studio: Studio,
  ) {}

  /** Renders one trial to its end, its stop, or an interruption. `signal` interrupts. */
  async run(id: string, signal: AbortSignal): Promise<void> {
    await withMachineLock(this.sql, hostname(), async () => {
      if (!(await beginTrial(this.sql, id))) return;
      const trial = await trialById(this.sql, id);
      if (!trial) return;
      await this.tell(trial, 'rendering');
      try {
        await this.render(trial, signal);
      } catch (error) {
        if (error instanceof Interrupted) throw error;
        this.studio.close();
        await setState(this.sql, id, 'failed', (error as Error).message.slice(0, 500));
        await this.tell(trial, 'failed');
      }
    });
  }

  private tell({ id, shot }: TrialRow, state: TrialRow['state']): Promise<void> {
    return announce(this.sql, { type: 'trial', id, shot, state });
  }

  private async render(trial: TrialRow, signal: AbortSignal): Promise<void> {
    const { sql } = this;
    let preview = 0;
    let lastPreview = 0;
    const rendered = await renderFilm(sql, this.studio, trial, {
      signal,
      onProgress: async (fraction, leftMs, film) => {
        const stop = await noteProgress(sql, trial.id, fraction, leftMs);
        if (performance.now() - lastPreview > PREVIEW_MS) {
          lastPreview = performance.now();
          const { width, height } = film.spec.region;
          await savePreview(sql, trial.id, ++preview, width, height, previewBytes(film));
        }
        await announce(sql, { type: 'progress', id: trial.id, shot: trial.shot, fraction, leftMs, preview });
        return stop;
      },
      onStoring: async () => {
        await setState(sql, trial.id, 'storing');
        await this.tell(trial, 'storing');
      },
    });
    const { finished, seconds, figures, spec, hash, thumbnail, layers } = rendered;
    const state = finished ? 'done' : 'stopped';
    const noise = figures.noise;
    await finishTrial(sql, trial.id, { state, seconds, noise, figures, spec, film: hash, thumbnail, layers });
    if (finished) await dropCheckpoint(sql, trial.id);
    await dropPreview(sql, trial.id);
    await this.tell(trial, state);
  }
}
