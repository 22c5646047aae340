import { Film, filmBytes, makeSpec } from '@/core/film';
import { displayOf } from '@/core/image';
import {
  makeWorld,
  type PreparedScene,
  prepareScene,
  type Rebuilt,
  scratchBytes,
  tellOpenness,
  updateScene,
  worldKey,
} from '@/core/kernel';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { type Camera, isDisplaced, type Scene } from '@/core/scene';
import { Inspector } from './inspector';
import { opennessOf } from './openness';
import { CONTROL, type FromTracer, MAX_PLANES, type ToTracer, type Tracer } from './protocol';
import { Sweeps } from './sweeps';

export interface Progress {
  /** Samples a pixel of the sweep in progress. */
  target: number;
  /** Share of the whole render done, 0..1, counted in samples. */
  fraction: number;
  /** Milliseconds of tracing so far in this call. */
  elapsedMs: number;
}

export interface RenderOptions {
  signal?: AbortSignal;
  onProgress?: (progress: Progress, film: Film) => void;
  /** Milliseconds between progress calls. */
  everyMs?: number;
  /** Called between sweeps, when no thread writes to the film. */
  onSweep?: (film: Film, target: number, so: { traceMs: number; calibratedMs: number }) => Promise<void> | void;
  /** Sample counts to reach, sweep by sweep; by default `sweepTargets` of the recipe's maximum. */
  targets?: number[];
  /** Cells to render alone, by number; the film's others stay empty. For even sampling. */
  cells?: readonly number[];
  /** A film to go on with. */
  film?: Film;
  /** Measure the threads' speed on the way, which takes one part in a hundred of the time. */
  calibrate?: boolean;
  /** Frame of the shot; the first without it. */
  frame?: number;
  /** Flags of `STUDY`: poorer techniques, to measure what ours gain. */
  study?: number;
}

/** A recipe that changes nothing of a scene. */
const PLAIN = parseRecipe({});

/** Tracing threads over one scene. Rejects whatever is under way when a thread fails. */
export class RenderPool {
  private readonly tracers: Tracer[];
  private prepared: PreparedScene | null = null;
  private waiting: {
    need: number;
    match: (m: FromTracer) => boolean;
    resolve: () => void;
    reject: (e: Error) => void;
  } | null = null;
  /** The recipe and camera that the prepared scene was made for, and what of them counts. */
  private recipe = PLAIN;
  private camera: Camera | null = null;
  private frame = 1;
  private key = '';
  /** The scene that was asked for last, before a recipe made a world of it. */
  private source: Scene | null = null;
  private looking: { prepared: PreparedScene; scratch: number; inspector: Inspector } | null = null;
  /** What lights without a place were last weighed for. */
  private weighed = '';
  private failure: Error | null = null;
  private sweepId = 0;

  constructor(
    readonly module: WebAssembly.Module,
    spawn: () => Tracer,
    readonly threads: number,
  ) {
    this.tracers = Array.from({ length: threads }, () => {
      const tracer = spawn();
      tracer.listen(
        (m) => this.receive(m),
        (e) => this.fail(e),
      );
      return tracer;
    });
  }

  private receive(message: FromTracer): void {
    if (message.type === 'failed') {
      this.fail(new Error(message.message));
      return;
    }
    const w = this.waiting;
    if (w?.match(message) && --w.need === 0) {
      this.waiting = null;
      w.resolve();
    }
  }

  private fail(error: Error): void {
    this.failure = error;
    const w = this.waiting;
    this.waiting = null;
    w?.reject(error);
  }

  /** Posts to every thread and waits for as many answers that match. */
  private ask(message: (i: number) => ToTracer, match: (m: FromTracer) => boolean): Promise<void> {
    if (this.failure) return Promise.reject(this.failure);
    return new Promise((resolve, reject) => {
      this.waiting = { need: this.threads, match, resolve, reject };
      this.tracers.forEach((t, i) => {
        t.post(message(i));
      });
    });
  }

  /** Packs the scene and builds its tree on this thread, then hands it to all tracing threads. Times in ms. */
  async load(
    scene: Scene,
    recipe: Recipe = PLAIN,
    camera: Camera = scene.document.cameras[0],
    frame = scene.document.frames.first,
  ): Promise<{ buildMs: number; triangles: number }> {
    const started = performance.now();
    const prepared = prepareScene(this.module, makeWorld(scene, recipe, camera, frame), MAX_PLANES, this.threads + 1);
    const buildMs = performance.now() - started;
    await this.hand(prepared);
    this.prepared = prepared;
    this.note(scene, recipe, camera, frame);
    return { buildMs, triangles: prepared.triangleCount };
  }

  private note(scene: Scene, recipe: Recipe, camera: Camera, frame: number): void {
    this.frame = frame;
    this.source = scene;
    this.recipe = recipe;
    this.camera = camera;
    this.key = worldKey(scene, recipe, camera, frame);
    this.weighed = '';
  }

  /** Brings what is prepared to this scene, recipe and camera, rebuilding only what differs. */
  private async follow(scene: Scene, recipe: Recipe, camera: Camera, frame: number): Promise<Rebuilt> {
    const rebuilt =
      this.prepared &&
      !isDisplaced(scene) &&
      updateScene(this.module, this.prepared, makeWorld(scene, recipe, camera, frame));
    if (!rebuilt) {
      await this.load(scene, recipe, camera, frame);
      return 'all';
    }
    await this.hand(this.prepared!);
    this.note(scene, recipe, camera, frame);
    return rebuilt;
  }

  /** Hands a prepared scene to all threads, each with a scratch area of its own. */
  private hand(prepared: PreparedScene): Promise<void> {
    const step = scratchBytes(MAX_PLANES, prepared.plan.posedBytes);
    return this.ask(
      (i) => ({ type: 'load', module: this.module, memory: prepared.memory, scratch: prepared.end + i * step }),
      (m) => m.type === 'ready',
    );
  }

  /**
   * Takes an edited scene in place of the loaded one, between renders, rebuilding only what the edit touches; an edit
   * of materials, lights, environment or fog rebuilds nothing.
   */
  async update(scene: Scene): Promise<{ updateMs: number; rebuilt: Rebuilt }> {
    const started = performance.now();
    return {
      rebuilt: await this.follow(scene, this.recipe, this.camera ?? scene.document.cameras[0], this.frame),
      updateMs: performance.now() - started,
    };
  }

  /**
   * Renders a recipe; another scene than the last takes its place as `update` would have it. Resolves with the film when done or when the signal stops it; `finished` says which.
   * The film's bits do not depend on the thread count, nor on having been stopped and gone on. `calibratedMs` is the
   * time of tracing as a machine of speed 1 would have taken, when asked for.
   */
  async render(
    scene: Scene,
    recipe: Recipe,
    camera: Camera,
    options: RenderOptions = {},
  ): Promise<{ film: Film; finished: boolean; traceMs: number; calibratedMs: number | null }> {
    if (!this.prepared) throw new Error('render before load');
    const frame = options.frame ?? scene.document.frames.first;
    await this.stand(scene, recipe, camera, frame);
    this.tellOpenness(recipe, camera, frame);
    const spec = makeSpec(recipe, scene.document);
    const film = options.film ?? new Film(spec, new SharedArrayBuffer(filmBytes(spec)));
    const control = new Int32Array(new SharedArrayBuffer(CONTROL.size * 4));
    const errors = new Float32Array(new SharedArrayBuffer(film.tileCount * 4));
    await this.ask(
      () => ({
        type: 'begin',
        film: film.buffer as SharedArrayBuffer,
        spec,
        recipe,
        camera,
        look: scene.document.look,
        control: control.buffer as SharedArrayBuffer,
        errors: errors.buffer as SharedArrayBuffer,
        calibrate: options.calibrate === true,
        study: options.study ?? 0,
        frame,
        firstFrame: scene.document.frames.first,
      }),
      (m) => m.type === 'ready',
    );
    const { signal } = options;
    const stop = () => Atomics.store(control, CONTROL.stop, 1);
    signal?.addEventListener('abort', stop);
    if (signal?.aborted) stop();
    const sweeps = new Sweeps(
      film,
      recipe,
      displayOf(camera.exposure, scene.document.look),
      errors,
      options.targets,
      options.cells,
    );
    const started = performance.now();
    const timer = options.onProgress
      ? setInterval(() => {
          options.onProgress?.(
            { target: current, fraction: sweeps.fraction(), elapsedMs: performance.now() - started },
            film,
          );
        }, options.everyMs ?? 250)
      : null;
    let current = 0;
    let traceMs = 0;
    let calibratedMs = 0;
    let finished = true;
    try {
      for (let targets = sweeps.next(); targets; targets = sweeps.next()) {
        current = Math.max(...targets);
        Atomics.store(control, CONTROL.next, 0);
        const id = ++this.sweepId;
        const before = performance.now();
        let busy = 0;
        let calibrated = 0;
        const order = sweeps.toDo();
        await this.ask(
          () => ({ type: 'sweep', id, order }),
          (m) => {
            if (m.type !== 'swept' || m.id !== id) return false;
            busy += m.busyMs;
            calibrated += m.calibratedMs;
            return true;
          },
        );
        const sweepMs = performance.now() - before;
        traceMs += sweepMs;
        if (busy > 0) calibratedMs += (sweepMs * calibrated) / busy;
        if (signal?.aborted) {
          finished = false;
          break;
        }
        await options.onSweep?.(film, current, { traceMs, calibratedMs });
      }
    } finally {
      if (timer) clearInterval(timer);
      signal?.removeEventListener('abort', stop);
    }
    return { film, finished, traceMs, calibratedMs: options.calibrate ? calibratedMs : null };
  }

  /** Triangles of what is loaded, those of instances counted as often as they are placed. */
  get triangles(): number {
    return this.prepared?.triangleCount ?? 0;
  }

  /** Makes what is loaded that scene as the recipe has it traced, unless it is; tells what had to be built, null for nothing. */
  async stand(scene: Scene, recipe: Recipe, camera: Camera, frame: number): Promise<Rebuilt | null> {
    if (scene === this.source && worldKey(scene, recipe, camera, frame) === this.key) return null;
    return this.follow(scene, recipe, camera, frame);
  }

  /** Tells the kernel how open what the camera sees is to lights without a place. */
  private tellOpenness({ size }: Recipe, camera: Camera, frame: number): void {
    const { prepared } = this;
    if (!prepared) return;
    const { far, count, lights } = prepared.plan.light;
    // Only a choice of lights goes by it, and roulette by the sky.
    if (far.length === 0 || (count < 2 && lights[far[0]].kind !== 'environment')) return;
    const key = JSON.stringify([camera, frame, size.width, size.height]);
    if (key === this.weighed) return;
    this.weighed = key;
    const shares = opennessOf(this.inspector()!, prepared, camera, frame, size.width / size.height);
    tellOpenness(prepared.memory.buffer, prepared.plan, shares);
  }

  get isLoaded(): boolean {
    return this.prepared !== null;
  }

  /** Looks into what is loaded, beside whatever is being traced; null before the first scene. */
  inspector(): Inspector | null {
    const { prepared } = this;
    if (!prepared) return null;
    const scratch = prepared.end + this.threads * scratchBytes(MAX_PLANES, prepared.plan.posedBytes);
    const kept = this.looking;
    if (kept?.prepared === prepared && kept.scratch === scratch) return kept.inspector;
    const inspector = new Inspector(this.module, prepared, scratch);
    this.looking = { prepared, scratch, inspector };
    return inspector;
  }

  close(): void {
    this.fail(new Error('the pool was closed'));
    for (const t of this.tracers) t.terminate();
  }
}
