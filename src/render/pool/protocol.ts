import type { TileWork } from '@/core/comp';
import type { HotLight, Picture, Points, Results } from '@/core/denoise';
import type { FilmSpec } from '@/core/film';
import type { Look } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import type { Camera } from '@/core/scene';

/** Planes a thread's scratch area has room for: 16 groups, every class, 16 pairs, the ledger, lost light, guides and all features. */
export const MAX_PLANES = 342;

/** Slots of the control words all threads share. */
export const CONTROL = { next: 0, stop: 1, tilesDone: 2, size: 4 } as const;

/** Orders to a tracing thread. */
export type ToTracer =
  | { type: 'load'; module: WebAssembly.Module; memory: WebAssembly.Memory; scratch: number }
  | {
      type: 'begin';
      film: SharedArrayBuffer;
      spec: FilmSpec;
      recipe: Recipe;
      camera: Camera;
      look: Look;
      control: SharedArrayBuffer;
      /** Noise of each cell in percent, written as it is measured. */
      errors: SharedArrayBuffer;
      /** Measure the thread's speed while tracing, for seconds that compare. */
      calibrate: boolean;
      /** Flags of `STUDY`. */
      study: number;
      frame: number;
      firstFrame: number;
    }
  | { type: 'sweep'; id: number; order: Int32Array }
  /** Make tiles of a stack's picture, together with other threads. */
  | { type: 'make tiles'; work: TileWork }
  /** Make leads ready for filtering, or filter squares: each is taken from the counter. All planes are shared. */
  | { type: 'ready leads'; picture: Picture; control: SharedArrayBuffer }
  | {
      type: 'filter squares';
      module: WebAssembly.Module;
      picture: Picture;
      results: Results;
      squares: { x: number; y: number }[];
      control: SharedArrayBuffer;
    };

/** A lead made ready, by its number: what was hot in it, and points that are not in its shared planes. */
export interface ReadyLead {
  lead: number;
  hot: HotLight;
  points: Points;
}

/** Answers from a tracing thread. */
export type FromTracer =
  | { type: 'ready' }
  /** Milliseconds spent on tiles, and the same times the thread's speed of the moment. */
  | { type: 'swept'; id: number; busyMs: number; calibratedMs: number }
  | { type: 'leads ready'; ready: ReadyLead[] }
  | { type: 'square filtered'; number: number }
  | { type: 'squares filtered' }
  | { type: 'failed'; message: string };

/** A tracing thread as its pool sees it. */
export interface Tracer {
  post(message: ToTracer): void;
  listen(onMessage: (message: FromTracer) => void, onFailure: (error: Error) => void): void;
  terminate(): void;
}
