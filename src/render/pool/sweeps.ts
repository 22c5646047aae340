import { cellError, type Film, raysPerSample } from '@/core/film';
import type { Display } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import { allocate } from '@/core/stats';

/**
 * Sample counts after each sweep: doubling at first, then steps of 16, ending at `most` (made even). `eager`
 * begins with one sample, for a picture sooner; a sweep of one gives no pair for the noise tables.
 */
export function sweepTargets(most: number, eager: boolean): number[] {
  const last = most + (most % 2);
  const targets: number[] = eager ? [1] : [];
  for (let n = 2, step = 2; n < last; n += step, step = Math.min(16, n)) targets.push(n);
  targets.push(last);
  return targets;
}

/** Tiles from the middle of the picture outwards. */
export function centreOut(tilesX: number, tilesY: number): Int32Array {
  const order = Array.from({ length: tilesX * tilesY }, (_, i) => i);
  const key = (t: number) => ((t % tilesX) - (tilesX - 1) / 2) ** 2 + (Math.floor(t / tilesX) - (tilesY - 1) / 2) ** 2;
  order.sort((a, b) => key(a) - key(b) || a - b);
  return Int32Array.from(order);
}

/**
 * Decides from sweep to sweep how many samples each cell gets next, and in which order. Decisions rest on nothing but
 * the film, so that a render taken up again goes on as if it had never stopped.
 */
export class Sweeps {
  private readonly list: number[];
  private readonly order: Int32Array;
  private readonly isLeftOut: (t: number) => boolean;
  /** Samples a pixel that each cell is expected to end with. */
  private readonly wanted: Float64Array;

  /** `errors` holds each cell's noise in percent at its samples, as tracing threads measure it. */
  constructor(
    private readonly film: Film,
    private readonly recipe: Recipe,
    exposure: Display,
    readonly errors: Float32Array,
    targets?: number[],
    /** Only these cells are rendered; all without it. */
    cells?: readonly number[],
  ) {
    const only = cells && new Set(cells);
    this.isLeftOut = only ? (t) => !only.has(t) : () => false;
    const { cameraMax, stopNoise } = recipe.sampling;
    this.list = targets ?? sweepTargets(cameraMax, false);
    const { tilesX, tilesY } = film.spec;
    this.order =
      recipe.sampling.tileOrder === 'rows'
        ? Int32Array.from({ length: film.tileCount }, (_, i) => i)
        : centreOut(tilesX, tilesY);
    this.wanted = new Float64Array(film.tileCount).fill(this.list[this.list.length - 1]);
    errors.fill(Number.NaN);
    if (stopNoise > 0) {
      for (let t = 0; t < film.tileCount; t++) {
        const n = film.samples[t];
        if (n >= 2 && n % 2 === 0) errors[t] = cellError(film, t, exposure, recipe.sampling.watch);
      }
    }
  }

  private hasStopped(t: number): boolean {
    if (this.isLeftOut(t)) return true;
    const { cameraMin, stopNoise } = this.recipe.sampling;
    return stopNoise > 0 && this.film.samples[t] >= cameraMin && this.errors[t] <= stopNoise;
  }

  /** Targets of the next sweep, by cell; null when there is nothing left to do. */
  next(): Int32Array | null {
    const { film } = this;
    const { samples, targets } = film;
    // A sweep that was broken off is ended first.
    if (samples.some((n, t) => n < targets[t])) return targets;
    const { adapt, stopNoise, cameraMin } = this.recipe.sampling;
    const least = samples.reduce((n, v, t) => (this.isLeftOut(t) ? n : Math.min(n, v)), Infinity);
    const uniform = adapt === 'even' || stopNoise === 0 || least < Math.max(2, cameraMin);
    if (uniform) return this.nextEven();
    return this.nextCheapest();
  }

  private nextEven(): Int32Array | null {
    const { samples, targets } = this.film;
    for (const target of this.list) {
      let any = false;
      for (let t = 0; t < samples.length; t++) {
        const on = samples[t] < target && !this.hasStopped(t);
        targets[t] = on ? target : samples[t];
        if (!on && this.hasStopped(t)) this.wanted[t] = samples[t];
        any ||= on;
      }
      if (any) return targets;
    }
    return null;
  }

  private nextCheapest(): Int32Array | null {
    const { film, errors } = this;
    const { samples, targets } = film;
    const { cameraMax, stopNoise } = this.recipe.sampling;
    const cells = Array.from(samples, (n, t) => {
      const { w, h } = film.place(t);
      return { pixels: w * h, samples: n, squares: (errors[t] / 100) ** 2, cost: raysPerSample(film, t) };
    });
    const dealt = allocate(cells, (stopNoise / 100) ** 2, cameraMax + (cameraMax % 2));
    let any = false;
    for (let t = 0; t < samples.length; t++) {
      this.wanted[t] = dealt[t];
      // No more than double at once: what a cell needs is known better the more it has.
      const n = Math.min(2 * samples[t], 2 * Math.ceil(dealt[t] / 2));
      targets[t] = Math.max(samples[t], n);
      any ||= targets[t] > samples[t];
    }
    return any ? targets : null;
  }

  /** Cells that the sweep under way has to render, in order. */
  toDo(): Int32Array {
    const { samples, targets } = this.film;
    const rest = this.order.filter((t) => samples[t] < targets[t]);
    if (this.recipe.sampling.tileOrder !== 'noisiest') return rest;
    return rest.sort((a, b) => (this.errors[b] || 0) - (this.errors[a] || 0));
  }

  /** Share of the expected samples that the film has. */
  fraction(): number {
    let have = 0;
    let want = 0;
    for (let t = 0; t < this.film.tileCount; t++) {
      const stopped = this.recipe.sampling.adapt === 'even' && this.hasStopped(t);
      const w = stopped ? this.film.samples[t] : Math.max(this.wanted[t], this.film.samples[t]);
      have += this.film.samples[t];
      want += w;
    }
    return want > 0 ? Math.min(1, have / want) : 0;
  }
}
