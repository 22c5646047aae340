import { makeTiles } from '@/core/comp';
import { cellError, Film } from '@/core/film';
import { type Display, displayOf } from '@/core/image';
import { Kernel, TABLE } from '@/core/kernel';
import type { Recipe } from '@/core/recipe';
import { filterSquares, readyLeads } from './filterer';
import { CONTROL, type FromTracer, type ToTracer } from './protocol';
import { SpeedProbe } from './speed-probe';

/** Milliseconds between measurements of the thread's speed. */
const PROBE_EVERY_MS = 2000;

interface Job {
  film: Film;
  recipe: Recipe;
  exposure: Display;
  control: Int32Array;
  errors: Float32Array;
  calibrate: boolean;
}

/**
 * What a tracing thread does, whatever thread it is: takes tiles from the shared counter, renders each
 * from the samples it has up to the sweep's target, and measures the noise of each where decisions rest on it.
 */
export function makeTracer(post: (message: FromTracer) => void): (message: ToTracer) => void {
  let kernel: Kernel | null = null;
  let scratch = 0;
  let job: Job | null = null;
  let module: WebAssembly.Module | null = null;
  let probe: SpeedProbe | null = null;
  let speed = 1;
  let probedAt = -Infinity;

  const probeSpeed = () => {
    if (!module || performance.now() - probedAt < PROBE_EVERY_MS) return;
    probe ??= new SpeedProbe(module, () => performance.now());
    speed = probe.measure();
    probedAt = performance.now();
  };

  const sweep = (order: Int32Array): { busyMs: number; calibratedMs: number } => {
    if (!kernel || !job) throw new Error('sweep before load and begin');
    const { film, recipe, control, errors, exposure } = job;
    const { spec } = film;
    const { stopNoise, watch } = recipe.sampling;
    let busyMs = 0;
    let calibratedMs = 0;
    while (Atomics.load(control, CONTROL.stop) === 0) {
      const slot = Atomics.add(control, CONTROL.next, 1);
      if (slot >= order.length) break;
      const t = order[slot];
      const have = film.samples[t];
      const target = film.targets[t];
      if (have < target) {
        if (job.calibrate) probeSpeed();
        const started = performance.now();
        const { x, y, w, h } = film.place(t);
        kernel.renderTile(film.record(t), spec.region.x + x, spec.region.y + y, w, h, have, target - have);
        film.samples[t] = target;
        if (stopNoise > 0 && target % 2 === 0) errors[t] = cellError(film, t, exposure, watch);
        const spent = performance.now() - started;
        film.tables(t)[TABLE.timeMs] += spent;
        busyMs += spent;
        calibratedMs += spent * speed;
      }
      Atomics.add(control, CONTROL.tilesDone, 1);
    }
    return { busyMs, calibratedMs };
  };

  return (message) => {
    try {
      if (message.type === 'load') {
        module = message.module;
        kernel = new Kernel(module, message.memory);
        scratch = message.scratch;
        post({ type: 'ready' });
      } else if (message.type === 'begin') {
        if (!kernel) throw new Error('begin before load');
        const film = new Film(message.spec, message.film);
        kernel.bind(scratch, message.recipe, message.camera, message.spec.groups.length, message.spec.planes, message);
        job = {
          film,
          recipe: message.recipe,
          exposure: displayOf(message.camera.exposure, message.look),
          control: new Int32Array(message.control),
          errors: new Float32Array(message.errors),
          calibrate: message.calibrate,
        };
        if (message.calibrate) probeSpeed();
        post({ type: 'ready' });
      } else if (message.type === 'ready leads') {
        readyLeads(message, post);
      } else if (message.type === 'make tiles') {
        makeTiles(message.work);
      } else if (message.type === 'filter squares') {
        filterSquares(message, post);
      } else {
        post({ type: 'swept', id: message.id, ...sweep(message.order) });
      }
    } catch (error) {
      post({ type: 'failed', message: (error as Error).message });
    }
  };
}
