import { type Film, type FilmFigures, type FilmLayers, makeLayer, measureFilm } from '@/core/film';
import { exposureScale } from '@/core/image';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import type { LiveStatus, Placement } from './film-protocol';
import type { RenderPool } from './pool';
import { sweepTargets } from './sweeps';

/** The coarse picture is sized to be traced in this time. */
const COARSE_MS = 160;
const COARSE_SCALES = [1, 2, 4, 8, 16];
const MEASURE_EVERY_MS = 1500;

/** What the live picture is to show. */
export interface Wanted {
  scene: Scene;
  recipe: Recipe;
  camera: Camera;
  frame: number;
}

/** The live picture: coarse at once, then the recipe's own size, sweep after sweep. */
export class LiveRender {
  private abort: AbortController | null = null;
  private running: Promise<void> = Promise.resolve();
  private wanted: Wanted | null = null;
  private paused = false;
  private film: Film | null = null;
  /** The settings that `film` was rendered with: it is only ever gone on with under these. */
  private madeFor: Wanted | null = null;
  private coarse: Film | null = null;
  private speed = 40000;
  private figures: FilmFigures | null = null;
  private measuredAt = 0;
  private startedAt = 0;
  private spentMs = 0;
  private coarseMs: number | null = null;
  private changes = 0;
  private state: LiveStatus['state'] = 'halted';

  constructor(
    private readonly pool: RenderPool,
    private readonly changed: () => void,
  ) {}

  /** Starts anew with these settings; what runs is stopped first. */
  start(wanted: Wanted): void {
    this.wanted = wanted;
    this.startedAt = performance.now();
    this.coarseMs = null;
    if (this.paused) {
      this.state = 'paused';
      this.changed();
    }
    this.restart();
  }

  /** Stops and keeps the picture. */
  halt(): void {
    this.wanted = null;
    this.state = 'halted';
    this.abort?.abort();
    this.changed();
  }

  pause(on: boolean): void {
    if (this.paused === on) return;
    this.paused = on;
    if (on) {
      this.abort?.abort();
      if (this.wanted) this.state = 'paused';
      this.changed();
    } else if (this.wanted) this.restart();
  }

  private restart(): void {
    this.abort?.abort();
    const abort = new AbortController();
    this.abort = abort;
    this.running = this.running
      .then(() => this.run(abort.signal))
      .catch((error) => {
        this.state = 'halted';
        this.failed?.(error as Error);
      });
  }

  failed: ((error: Error) => void) | null = null;

  private async run(signal: AbortSignal): Promise<void> {
    const wanted = this.wanted;
    if (signal.aborted || this.paused || !wanted) return;
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
        const { film } = await this.pool.render(scene, small, camera, { signal, frame, targets: [1] });
        if (signal.aborted) return;
        this.coarse = film;
        this.film = null;
        this.noteCoarse();
      } else this.coarse = null;
      this.figures = null;
      this.spentMs = 0;
    }
    this.state = 'refining';
    const before = performance.now();
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
        if (now - this.measuredAt > MEASURE_EVERY_MS) this.measure(camera);
        this.changed();
      },
    });
    this.spentMs += performance.now() - before;
    if (signal.aborted) {
      if (this.wanted === wanted) this.take(film, wanted);
      return;
    }
    this.take(film, wanted);
    this.state = 'done';
    this.measure(camera);
    this.changed();
  }

  private take(film: Film, wanted: Wanted): void {
    this.film = film;
    this.madeFor = wanted;
    if (this.coarseMs === null) this.noteCoarse();
  }

  private noteCoarse(): void {
    this.coarseMs = performance.now() - this.startedAt;
    this.changes++;
    this.changed();
  }

  private measure(camera: Camera): void {
    if (!this.film) return;
    this.figures = measureFilm(this.film, exposureScale(camera.exposure));
    this.measuredAt = performance.now();
  }

  status(): LiveStatus {
    const film = this.film;
    const rays = film?.rays() ?? null;
    const elapsed = this.state === 'refining' ? performance.now() - this.startedAt : this.spentMs;
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
      shares: this.figures?.shares ?? null,
      elapsedMs: elapsed,
      coarseMs: this.coarseMs,
      changes: this.changes,
      triangles: this.pool.triangles,
    };
  }

  place(): Placement | null {
    const spec = (this.film ?? this.coarse)?.spec;
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

  /** Layers of the picture so far; the coarse one shows where the fine one has nothing yet. */
  layers(names: string[]): FilmLayers | null {
    const film = this.film ?? this.coarse;
    if (!film) return null;
    const { width, height } = film.spec.region;
    const out: FilmLayers = { width, height, layers: new Map() };
    for (const name of names) {
      const layer = makeLayer(film, name);
      if (!layer) return null;
      if (this.film && this.coarse && layer.kind === 'color') {
        const under = makeLayer(this.coarse, name);
        if (under) fillUnder(this.film, this.coarse, layer.planes, under.planes);
      }
      out.layers.set(name, layer);
    }
    return out;
  }
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
