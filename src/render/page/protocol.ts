import type { FilmFigures, RayCounts, TimeShares } from '@/core/film';
import type { Look } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import type { Camera, Content, SceneDocument } from '@/core/scene';
import type { Noise } from '@/core/stats';
import type { Asked, QuestionName } from '../questions';
import type { Legend } from '../views/painting';
import type { Placement } from '../views/place';
import type { View } from '../views/show';
import type { ProbeValue } from './probe';

export type Slot = 'A' | 'B';

/** What fills a slot: the live picture, a trial's film, or what a trial in progress has so far. */
export type Source =
  | { kind: 'live' }
  | { kind: 'trial'; id: string; groups: string[]; layers: string[]; frame: Placement }
  | { kind: 'preview'; id: string; version: number; frame: Placement }
  | { kind: 'reference'; content: Content };

export type ToFilm =
  | { type: 'open'; threads: number }
  | { type: 'live'; document: SceneDocument; recipe: Recipe; camera: string; frame: number }
  | { type: 'halt' }
  | { type: 'pause'; on: boolean }
  | { type: 'show'; slot: Slot; source: Source | null }
  | { type: 'view'; a: View; b: View; exposure: number; sceneExposure: number; look: Look }
  | { type: 'probe'; id: number; x: number; y: number; look: { camera: Camera; frame: number; aspect: number } | null }
  | ToAsk
  | { type: 'play'; on: boolean; first: number; last: number; perSecond: number }
  | { type: 'cancel'; id: number };

/** A question with its name, one member a name. */
export type ToAsk = { [K in QuestionName]: { type: 'ask'; id: number; what: K; asked: Asked<K> } }[QuestionName];

export interface LiveStatus {
  state: 'coarse' | 'refining' | 'done' | 'halted' | 'paused';
  samples: number;
  target: number;
  samplesPerSecond: number;
  raysPerSecond: number;
  rays: RayCounts | null;
  times: TimeShares | null;
  noise: Noise | null;
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
    }
  | { type: 'absent'; slot: Slot; reason: string }
  | { type: 'status'; status: LiveStatus }
  | { type: 'probed'; id: number; a: ProbeValue | null; b: ProbeValue | null; depth: number | null }
  | { type: 'answered'; id: number; answer: unknown }
  | { type: 'refused'; id: number; message: string }
  | { type: 'step'; id: number; done: number; of: number; words: string }
  | { type: 'reel'; kept: number[] }
  | { type: 'played'; frame: number }
  | { type: 'fault'; message: string };
