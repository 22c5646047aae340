import type { Balance, FilmFigures, Parting, RayCounts } from '@/core/film';
import type { Recipe } from '@/core/recipe';
import type { SceneDocument } from '@/core/scene';
import type { Noise } from '@/core/stats';
import type { Legend, View } from './view';

export type Slot = 'A' | 'B';

/** What fills a slot: the live picture, a trial's film, or what a trial in progress has so far. */
export type Source =
  | { kind: 'live' }
  | { kind: 'trial'; id: string; groups: string[]; layers: string[]; frame: Placement }
  | { kind: 'preview'; id: string; version: number; frame: Placement };

/** The frame a film belongs to and where its pixels lie in it. */
export interface Placement {
  width: number;
  height: number;
  x: number;
  y: number;
  w: number;
  h: number;
}

export type ToFilm =
  | { type: 'open'; threads: number }
  | { type: 'live'; document: SceneDocument; recipe: Recipe; camera: string; frame: number }
  | { type: 'halt' }
  | { type: 'pause'; on: boolean }
  | { type: 'show'; slot: Slot; source: Source | null }
  | { type: 'view'; a: View; b: View; exposure: number; sceneExposure: number }
  | { type: 'probe'; id: number; x: number; y: number }
  | { type: 'measure'; id: number; what: 'relit'; trial: string; groups: string[]; balance: Balance; exposure: number }
  | { type: 'measure'; id: number; what: 'tally'; trial: string; parting: Parting; layers: string[] };

export interface LiveStatus {
  state: 'coarse' | 'refining' | 'done' | 'halted' | 'paused';
  samples: number;
  target: number;
  samplesPerSecond: number;
  raysPerSecond: number;
  rays: RayCounts | null;
  noise: Noise | null;
  shares: FilmFigures['shares'];
  elapsedMs: number;
  /** Milliseconds from the change to the first coarse picture. */
  coarseMs: number | null;
  /** Changes that have had their first picture. */
  changes: number;
  triangles: number;
}

export interface ProbeValue {
  x: number;
  y: number;
  values: { channel: string; value: number }[];
}

export type FromFilm =
  | {
      type: 'picture';
      slot: Slot;
      width: number;
      height: number;
      place: Placement;
      pixels: ArrayBuffer;
      legend: Legend | null;
    }
  | { type: 'absent'; slot: Slot; reason: string }
  | { type: 'status'; status: LiveStatus }
  | { type: 'probed'; id: number; a: ProbeValue | null; b: ProbeValue | null }
  | { type: 'measured'; id: number; result: unknown }
  | { type: 'fault'; message: string };

export interface RelitMeasure {
  noise: Noise | null;
  byGroup: Record<string, Noise | null>;
  ms: number;
}

export interface TallyMeasure {
  maxError: number;
  rmsError: number;
  decibels: number;
  parts: number;
}
