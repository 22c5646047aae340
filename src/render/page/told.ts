import type { FilmFigures, RayCounts, TimeShares } from '@/core/film';
import type { Content } from '@/core/scene';
import type { HotPixels, Noise } from '@/core/stats';
import type { FilmOf } from '../views/film-of';
import type { Legend } from '../views/painting';
import type { Placement } from '../views/place';
import type { ProbeValue } from './probe';

export type Slot = 'A' | 'B';

export type TrialSource = FilmOf & { kind: 'trial'; groups: string[]; layers: string[]; frame: Placement };

/** What fills a slot: the live picture, a trial's film, or what a trial in progress has so far (until then `before`). */
export type Source =
  | { kind: 'live' }
  | TrialSource
  | { kind: 'preview'; id: string; version: number; frame: Placement; before?: TrialSource }
  | { kind: 'reference'; content: Content };

export interface LiveStatus {
  state: 'coarse' | 'refining' | 'done' | 'halted' | 'paused';
  samples: number;
  target: number;
  samplesPerSecond: number;
  raysPerSecond: number;
  rays: RayCounts | null;
  times: TimeShares | null;
  noise: Noise | null;
  /** What the display hides of it. */
  darker: number | null;
  hot: HotPixels | null;
  shares: FilmFigures['shares'];
  /** Objects whose first hits are noisiest, at most eight. */
  objects: FilmFigures['objects'];
  elapsedMs: number;
  /** Milliseconds from the change to the first coarse picture. */
  coarseMs: number | null;
  /** Changes that have had their first picture. */
  changes: number;
  triangles: number;
}

/** What the film worker tells the page. */
export type FromFilm =
  /** The worker holds a lock of this name for as long as it lives. */
  | { type: 'alive'; lock: string }
  | {
      type: 'picture';
      slot: Slot;
      width: number;
      height: number;
      place: Placement;
      pixels: ArrayBuffer;
      legend: Legend | null;
      /** Of a screen with other primaries than those of sRGB. */
      space?: 'display-p3';
    }
  | { type: 'absent'; slot: Slot; reason: string }
  | { type: 'status'; status: LiveStatus }
  | { type: 'probed'; id: number; a: ProbeValue | null; b: ProbeValue | null; depth: number | null }
  | { type: 'answered'; id: number; answer: unknown }
  | { type: 'refused'; id: number; message: string }
  | { type: 'step'; id: number; done: number; of: number; words: string }
  /** Frames of which there is a picture, and those that are there by light groups. */
  | { type: 'reel'; kept: number[]; parted: number[] }
  | { type: 'played'; frame: number }
  | { type: 'fault'; message: string };
