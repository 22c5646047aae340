import {
  type Film,
  type FilmFigures,
  type FilmLayers,
  LAYER,
  type Layer,
  layerInfo,
  makeLayer,
  measureFilm,
  relight,
} from '@/core/film';
import { type Display, displayOf } from '@/core/image';
import { parseRecipe } from '@/core/recipe';
import type { RenderPool } from '../pool/pool';
import { sweepTargets } from '../pool/sweeps';
import type { Placement } from '../views/place';
import { retint, type Tints, type Wanted } from './retint';
import type { LiveStatus } from './told';

/** The coarse picture is sized to be traced in this time. */
const COARSE_MS = 70;
const COARSE_SCALES = [1, 1.5, 2, 3, 4, 6, 8, 12, 16];
const MEASURE_EVERY_MS = 1500;
/** Strengths of lights are traced anew when none has been changed for this long. */
/** Times the time that layers took to be made which they may be behind. */
const BEHIND = 4;
const SETTLE_MS = 1200;
/** Samples with which a new picture takes the place of a finer one of the same view. */
const CAUGHT_UP = 4;

/** One try at a picture. */
interface Job {
  abort: AbortController;
  /** Something newer is wanted: the coarse picture is finished, and nothing after it. */
  superseded: boolean;
  coarse: boolean;
  startedAt: number;
}

/** The live picture: coarse at once, then the recipe's own size, sweep after sweep. */
export class LiveRender {
  private job: Job | null = null;
  private running: Promise<void> = Promise.resolve();
  private wanted: Wanted | null = null;
  private paused = false;
  private film: Film | null = null;
  /** The settings that `film` was rendered with: it is only ever gone on with under these. */
  private madeFor: Wanted | null = null;
  private coarse: Film | null = null;
  /** Factors with which `film` shows what is wanted, where only strengths of lights differ. */
  private tints: Tints = new Map();
  /** A finer picture, shown until the new one has caught up with it. */
  private before: { film: Film; tints: Tints } | null = null;
  /** Exposure that noise is weighed by: it may change while a film goes on. */
  private exposure: Display = 1;
  private settle: ReturnType<typeof setTimeout> | null = null;
  private speed = 40000;
  private figures: FilmFigures | null = null;
  private measuredAt = 0;
  private startedAt = 0;
  /** Since when the pool has been at the picture; null while it is not. */
  private refiningSince: number | null = null;
  private spentMs = 0;
  private coarseMs: number | null = null;
  private changes = 0;
  private state: LiveStatus['state'] = 'halted';
  /** Counts whatever changes the picture, and the layers that were last made of it. */
  private version = 0;
  private made: {
    version: number;
    /** What it is of beside the sweeps that it has. */
    of: readonly unknown[];
    layers: FilmLayers | null;
    /** Until when it may be behind the sweeps, by the clock. */
    until: number;
  } | null = null;

  private readonly changed: () => void;

  constructor(
    private readonly pool: RenderPool,
    changed: () => void,
  ) {
    this.changed = () => {
      this.version++;
      changed();
    };
  }

  /** Starts anew with these settings; what runs is stopped first. */
  start(wanted: Wanted): void {
    if (this.settle) clearTimeout(this.settle);
    this.settle = null;
    this.fault = null;
    this.exposure = displayOf(wanted.camera.exposure, wanted.scene.document.look);
    this.startedAt = performance.now();
    const tints = this.film && this.madeFor && !this.paused ? retint(this.madeFor, wanted) : null;
    if (tints && this.state !== 'halted') {
      this.showTinted(wanted, tints);
      return;
    }
    this.wanted = wanted;
    this.tints = new Map();
    this.before = null;
    this.coarseMs = null;
    if (this.paused) {
      this.state = 'paused';
      this.changed();
    }
    this.restart();
  }

  /** Shows other strengths of lights by the film there is; a while after the last of them it is traced anew. */
  private showTinted(wanted: Wanted, tints: Tints): void {
    this.tints = tints;
    this.version++;
    const made = this.madeFor!;
    // What is traced for something else meanwhile would show that in its place.
    const isOther = this.wanted !== made;
    this.wanted = made;
    if (tints.size > 0)
      this.settle = setTimeout(() => {
        if (this.wanted !== made || !this.film) return;
        this.before = { film: this.film, tints: this.tints };
        this.tints = new Map();
        this.wanted = wanted;
        this.restart();
      }, SETTLE_MS);
    this.coarseMs = null;
    this.noteCoarse();
    if (isOther) this.restart();
    else if (this.state === 'done') this.measure();
    else if (this.job?.abort.signal.aborted) this.restart();
  }

  /** Lets something else use the pool; the picture goes on afterwards. */
  async borrow<T>(job: (pool: RenderPool) => Promise<T>): Promise<T> {
    this.job?.abort.abort();
    const result = this.running.then(() => job(this.pool));
    this.running = result.then(
      () => {},
      () => {},
    );
    try {
      return await result;
    } finally {
      if (this.wanted && !this.paused) this.restart();
    }
  }

  /** Whether a picture is wanted, be it that something else has the pool. */
  get isWanted(): boolean {
    return this.wanted !== null;
  }

  /** Stops and keeps the picture. */
  halt(): void {
    this.wanted = null;
    this.state = 'halted';
    this.job?.abort.abort();
    this.changed();
  }

  pause(on: boolean): void {
    if (this.paused === on) return;
    this.paused = on;
    if (on) {
      this.job?.abort.abort();
      if (this.wanted) this.state = 'paused';
      this.changed();
    } else if (this.wanted) this.restart();
  }

  private restart(): void {
    // Edits that follow each other faster than coarse pictures must not keep every one of them from being seen.
    if (this.job?.coarse) this.job.superseded = true;
    else this.job?.abort.abort();
    const job: Job = { abort: new AbortController(), superseded: false, coarse: false, startedAt: this.startedAt };
    this.job = job;
    this.running = this.running
      .then(() => this.run(job))
      .catch((error) => {
        this.state = 'halted';
        this.refiningSince = null;
        this.fault = (error as Error).message;
        this.failed?.(error as Error);
      });
  }

  /** Why there is no picture, when the last try failed. */
  fault: string | null = null;
  failed: ((error: Error) => void) | null = null;

  private async run(job: Job): Promise<void> {
    const { signal } = job.abort;
    const wanted = this.wanted;
    if (job !== this.job || signal.aborted || this.paused || !wanted) return;
    const { scene, recipe, camera, frame } = wanted;
    if (!this.pool.isLoaded) await this.pool.load(scene, recipe, camera, frame);
    const resumed = this.madeFor === wanted ? this.film : null;
    if (!resumed) {
      const { width, height } = {
        width: (recipe.size.width * recipe.size.scale) / 100,
        height: (recipe.size.height * recipe.size.scale) / 100,
      };
      const area = width * height * (recipe.region ? recipe.region.w * recipe.region.h : 1);
      const pixels = (this.speed * COARSE_MS) / 1000;
      const divisor = COARSE_SCALES.find((k) => area / (k * k) <= pixels) ?? 16;
      this.state = 'coarse';
      if (divisor > 1) {
        const scale = Math.max(1, recipe.size.scale / divisor);
        const small = parseRecipe({ ...recipe, size: { ...recipe.size, scale } });
        job.coarse = true;
        const { film } = await this.pool.render(scene, small, camera, { signal, frame, targets: [1] });
        job.coarse = false;
        if (signal.aborted) return;
        this.coarse = film;
        this.film = null;
        this.noteCoarse(job.startedAt);
        if (job.superseded) return;
      } else this.coarse = null;
      this.figures = null;
      this.spentMs = 0;
    }
    this.state = 'refining';
    const before = performance.now();
    this.refiningSince = before;
    let lastTotal = resumed?.sampleTotal() ?? 0;
    let lastAt = before;
    const { film } = await this.pool.render(scene, recipe, camera, {
      signal,
      frame,
      film: resumed ?? undefined,
      targets: sweepTargets(recipe.sampling.cameraMax, true),
      everyMs: 110,
      onProgress: (_, film) => {
        if (signal.aborted) return;
        this.take(film, wanted);
        const now = performance.now();
        if (now - lastAt > 400) {
          const total = film.sampleTotal();
          this.speed = Math.max(2000, ((total - lastTotal) * 1000) / (now - lastAt));
          lastTotal = total;
          lastAt = now;
        }
        if (now - this.measuredAt > MEASURE_EVERY_MS) this.measure();
        this.changed();
      },
    });
    this.spentMs += performance.now() - before;
    this.refiningSince = null;
    if (signal.aborted) {
      if (this.wanted === wanted) this.take(film, wanted);
      return;
    }
    this.take(film, wanted);
    this.state = 'done';
    this.measure();
    this.changed();
  }

  private take(film: Film, wanted: Wanted): void {
    this.film = film;
    this.madeFor = wanted;
    if (this.coarseMs === null) this.noteCoarse();
  }

  private noteCoarse(startedAt = this.startedAt): void {
    this.coarseMs = performance.now() - startedAt;
    this.changes++;
    this.changed();
  }

  private measure(): void {
    if (!this.film) return;
    // What a tinted picture's noise is, its film does not tell.
    this.figures = this.tints.size > 0 ? null : measureFilm(this.film, this.exposure);
    this.measuredAt = performance.now();
  }

  status(): LiveStatus {
    const film = this.film;
    const rays = film?.rays() ?? null;
    const elapsed = this.spentMs + (this.refiningSince === null ? 0 : performance.now() - this.refiningSince);
    return {
      state: this.state,
      samples: film ? film.samples.reduce((a, b) => Math.min(a, b), Infinity) : 0,
      target: this.wanted?.recipe.sampling.cameraMax ?? 0,
      samplesPerSecond: this.state === 'refining' ? this.speed : 0,
      raysPerSecond:
        rays && film && film.sampleTotal() > 0 && this.state === 'refining'
          ? (rays.total / film.sampleTotal()) * this.speed
          : 0,
      rays,
      noise: this.figures?.noise ?? null,
      times: this.figures?.times ?? null,
      darker: this.figures?.darker ?? null,
      hot: this.figures?.hot ?? null,
      shares: this.figures?.shares ?? null,
      objects:
        this.figures?.objects
          ?.slice()
          .sort((a, b) => b.noise - a.noise)
          .slice(0, 8) ?? null,
      elapsedMs: elapsed,
      coarseMs: this.coarseMs,
      changes: this.changes,
      triangles: this.pool.triangles,
    };
  }

  /** Camera samples a second that the last sweeps made. */
  lastSpeed(): number {
    return this.speed;
  }

  /** Frame of the finer picture, and its samples where it is whole. */
  finePicture(): { frame: number; samples: number } {
    const samples = this.film && !this.before ? this.film.samples.reduce((a, b) => Math.min(a, b), Infinity) : 0;
    return { frame: this.madeFor?.frame ?? 0, samples };
  }

  place(): Placement | null {
    const spec = this.shown()?.film.spec;
    if (!spec) return null;
    return {
      width: spec.frame.width,
      height: spec.frame.height,
      x: spec.region.x,
      y: spec.region.y,
      w: spec.region.width,
      h: spec.region.height,
    };
  }

  /** The film that is shown, and how its groups are tinted. */
  private shown(): { film: Film; tints: Tints } | null {
    const film = this.film ?? this.coarse;
    if (this.before) {
      const caughtUp = this.film?.samples.every((n) => n >= CAUGHT_UP) || this.state === 'done';
      if (!caughtUp) return this.before;
      this.before = null;
    }
    return film && { film, tints: this.tints };
  }

  /**
   * The same, made once for as long as the picture stays as it is: what is looked at is painted anew by every mix of it. While it refines, what
   * takes long to make may be behind by a few times that, lest a mix waits for it.
   */
  lookedAt(names: string[]): FilmLayers | null {
    const of = [this.film, this.coarse, this.before, this.tints, names.join()];
    const { made } = this;
    const now = performance.now();
    if (
      made?.of.every((o, i) => o === of[i]) &&
      (made.version === this.version || (this.state === 'refining' && now < made.until))
    )
      return made.layers;
    const layers = this.layers(names);
    const done = performance.now();
    this.made = { version: this.version, of, layers, until: done + BEHIND * (done - now) };
    return layers;
  }

  /** Layers of the picture so far; the coarse one shows where the fine one has nothing yet. */
  layers(names: string[]): FilmLayers | null {
    const shown = this.shown();
    if (!shown) return null;
    const { film, tints } = shown;
    const { width, height } = film.spec.region;
    const out: FilmLayers = { width, height, layers: new Map() };
    for (const name of names) {
      const layer = tints.size > 0 ? tintedLayer(film, name, tints) : makeLayer(film, name);
      if (!layer) return null;
      if (film === this.film && this.coarse && layer.kind === 'color') {
        const under = makeLayer(this.coarse, name);
        if (under) fillUnder(this.film, this.coarse, layer.planes, under.planes);
      }
      out.layers.set(name, layer);
    }
    return out;
  }
}

/** A layer with its groups' light multiplied; parts that are no sum of groups stay as they are. */
function tintedLayer(film: Film, name: string, tints: Tints): Layer | null {
  const { family, group } = layerInfo(name);
  const own = makeLayer(film, name);
  if (!own) return null;
  const times = (planes: Float32Array[], g: string) => {
    const k = tints.get(g);
    return k ? planes.map((p, c) => p.map((v) => v * k[c])) : planes;
  };
  if (group !== null && family !== 'pair') return { ...own, planes: times(own.planes, group) as typeof own.planes };
  if (family !== 'beauty' && family !== 'half') return own;
  const half = name === LAYER.half('a') ? 'a' : name === LAYER.half('b') ? 'b' : undefined;
  const { groups } = film.spec;
  const names = groups.map((g) => (half ? LAYER.half(half, g) : LAYER.group(g)));
  const parts = names.map((n) => makeLayer(film, n));
  if (!parts.every((p) => p !== null)) return own;
  const { width, height } = film.spec.region;
  // The sum of the groups as a mix of them is shown, so that writing the mix to the lights changes no pixel.
  const layers = new Map(parts.map((p) => [p.name, p]));
  const planes = relight({ width, height, layers }, groups, Object.fromEntries(tints), half);
  return planes && { ...own, planes: [...planes] };
}

/** Copies the coarse picture into tiles of the fine one that have no samples yet. */
function fillUnder(fine: Film, coarse: Film, planes: Float32Array[], under: Float32Array[]): void {
  const { width, height } = fine.spec.region;
  const small = coarse.spec.region;
  for (let t = 0; t < fine.tileCount; t++) {
    if (fine.samples[t] > 0) continue;
    const { x, y, w, h } = fine.place(t);
    for (let j = y; j < y + h; j++) {
      const sy = Math.min(small.height - 1, Math.floor((j * small.height) / height));
      for (let i = x; i < x + w; i++) {
        const from = sy * small.width + Math.min(small.width - 1, Math.floor((i * small.width) / width));
        for (let c = 0; c < planes.length; c++) planes[c][j * width + i] = under[c][from];
      }
    }
  }
}
