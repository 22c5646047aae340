import { type HotLight, type Prepared, prepare, readyWhole, type Size, squaresOf } from '@/core/denoise';
import type { FilmLayers } from '@/core/film';
import { CONTROL, type FromTracer, type ToTracer, type Tracer } from './protocol';

/** A plane that threads share. */
const sharedPlane = (size: number) => new Float32Array(new SharedArrayBuffer(size * 4));

export interface DenoiseOptions {
  /** The filter's inner loops. */
  module: WebAssembly.Module;
  spawn: () => Tracer;
  threads: number;
  /** What brings the film's light to units of display white. */
  scale: number;
  /** Squares that come first, as a part of the picture in pixels. */
  first?: { x: number; y: number; width: number; height: number };
  /** Told after each square, whose results are there then. */
  onSquare?(done: number, of: number, square: { x: number; y: number }, prepared: Prepared): void;
  signal?: AbortSignal;
}

/** A film denoised, or as much of it as there was time for. */
export interface Denoised {
  prepared: Prepared;
  /** Hot pixels of each lead, by its layer's name. */
  hot: Record<string, HotLight>;
  squares: { done: number; of: number };
  seconds: number;
}

/** Sends every tracer an order and waits until each says that it is through. */
function carryOut(
  tracers: readonly Tracer[],
  order: ToTracer,
  through: FromTracer['type'],
  onMessage: (m: FromTracer) => void,
): Promise<void> {
  return new Promise((resolve, reject) => {
    let left = tracers.length;
    for (const tracer of tracers) {
      tracer.listen((message) => {
        if (message.type === 'failed') reject(new Error(message.message));
        onMessage(message);
        if (message.type === through && --left === 0) resolve();
      }, reject);
      tracer.post(order);
    }
  });
}

/**
 * Denoises a film in threads: the same bits whatever their number. Stopping keeps the squares there are. Throws
 * `DenoiseError` where the film has no halves.
 */
export async function denoiseFilm(film: FilmLayers, options: DenoiseOptions): Promise<Denoised> {
  const started = performance.now();
  const size: Size = { width: film.width, height: film.height };
  const hot: Record<string, HotLight> = {};
  const first = options.first ? squaresOf(size, options.first) : [];
  const isFirst = new Set(first.map((s) => `${s.x} ${s.y}`));
  const squares = [...first, ...squaresOf(size).filter((s) => !isFirst.has(`${s.x} ${s.y}`))];
  let done = 0;
  const words = () => new SharedArrayBuffer(CONTROL.size * 4);
  const control = words();
  const stop = () => Atomics.store(new Int32Array(control), CONTROL.stop, 1);
  options.signal?.addEventListener('abort', stop);
  if (options.signal?.aborted) stop();
  // They start up while the film is laid out.
  const tracers = Array.from({ length: Math.min(options.threads, squares.length) }, options.spawn);
  try {
    const prepared = prepare(film, options.scale, sharedPlane);
    const { picture, results } = prepared;
    await carryOut(tracers, { type: 'ready leads', picture, control: words() }, 'leads ready', (m) => {
      if (m.type !== 'leads ready') return;
      for (const r of m.ready) {
        hot[prepared.leads[r.lead]] = r.hot;
        picture.leads[r.lead].points = r.points;
      }
    });
    if (picture.followers.length > 0) readyWhole(picture);
    const order: ToTracer = { type: 'filter squares', module: options.module, picture, results, squares, control };
    await carryOut(tracers, order, 'squares filtered', (m) => {
      if (m.type === 'square filtered') options.onSquare?.(++done, squares.length, squares[m.number], prepared);
    });
    const seconds = (performance.now() - started) / 1000;
    return { prepared, hot, squares: { done, of: squares.length }, seconds };
  } finally {
    options.signal?.removeEventListener('abort', stop);
    for (const t of tracers) t.terminate();
  }
}
