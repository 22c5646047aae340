import type { Balance, FilmFigures, Parting, RayCounts, TimeShares } from '@/core/film';
import type { Look } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import type { Camera, Content, SceneDocument } from '@/core/scene';
import type { Noise, PictureErrors } from '@/core/stats';
import type { DepthAxis } from './depth-advice';
import type { Patient } from './diagnosis/diagnose';
import type { Sight } from './inspector';
import type { Within } from './overlap';
import type { Area, Placement } from './place';
import type { Goal } from './proposal';
import type { Legend, View } from './view';

export type { Area, Placement } from './place';

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
  | { type: 'measure'; id: number; what: 'relit'; trial: string; groups: string[]; balance: Balance; exposure: number }
  | { type: 'measure'; id: number; what: 'tally'; trial: string; parting: Parting; layers: string[] }
  | { type: 'measure'; id: number; what: 'see'; x: number; y: number; patient: Patient }
  | { type: 'measure'; id: number; what: 'trails'; x: number; y: number; samples: number; patient: Patient }
  | { type: 'measure'; id: number; what: 'diagnosis'; patient: Patient }
  | { type: 'measure'; id: number; what: 'effects'; patient: Patient }
  | { type: 'measure'; id: number; what: 'histogram'; exposure: number }
  | { type: 'measure'; id: number; what: 'geometry' | 'glb'; document: SceneDocument }
  | { type: 'measure'; id: number; what: 'swatch'; document: SceneDocument; size: number }
  | { type: 'measure'; id: number; what: 'hours'; patient: Patient; suns: Sun[]; width: number }
  | { type: 'measure'; id: number; what: 'brightest'; patient: Patient }
  | { type: 'measure'; id: number; what: 'gather'; patient: Patient; frames: number[] }
  | {
      type: 'measure';
      id: number;
      what: 'tune';
      patient: Patient;
      goal: Goal | null;
      threads: number;
      ifKnown: boolean;
      moods: Balance[];
    }
  | { type: 'measure'; id: number; what: 'cures' | 'sequence'; patient: Patient; threads: number }
  | { type: 'measure'; id: number; what: 'advice'; patient: Patient; axis: DepthAxis }
  | { type: 'measure'; id: number; what: 'saving'; patient: Patient; to: Recipe }
  | { type: 'measure'; id: number; what: 'depth' | 'errors' }
  | { type: 'measure'; id: number; what: 'within'; area: Area }
  | { type: 'measure'; id: number; what: 'headroom'; trial: string; groups: string[]; target: number }
  | { type: 'measure'; id: number; what: 'stills'; trials: { id: string; frame: Placement }[]; area: Area | null }
  | { type: 'play'; on: boolean; first: number; last: number; perSecond: number }
  | { type: 'cancel'; id: number };

/** A place of the sun. */
export interface Sun {
  heightDegrees: number;
  bearingDegrees: number;
}

/** What lies under a point of the picture. */
export interface Seen extends Sight {
  /** Distance along the camera's axis. */
  depth: number;
  material: string | null;
  /** The picture there, linear. */
  rgb: [number, number, number] | null;
  /** Of it, what each light group brings; empty when groups are not kept. */
  groups: { group: string; rgb: [number, number, number] }[];
}

/** Where the environment is brightest, and where in the picture that lies. */
export interface Brightest {
  heightDegrees: number;
  /** Clockwise from −z seen from above. */
  bearingDegrees: number;
  /** Mean luminance within 3°, and its share of all the light that comes from the environment. */
  nits: number;
  share: number;
  /** Fractions of the frame; beyond 0..1 outside of it. Null behind the camera. */
  at: { x: number; y: number } | null;
}

/** Pixels of the picture by stops from display white. */
export interface Histogram {
  /** Counts, half a stop each, from `lowStops`. */
  bins: number[];
  lowStops: number;
  /** Shares of pixels beyond white, and below what a screen shows. */
  clipped: number;
  black: number;
  /** Mean log₂ of luminance against display white; null when nothing is there. */
  logMean: number | null;
}

/** Meshes of a scene as they lie in its geometry. */
export interface SpaceGeometry {
  bytes: ArrayBuffer;
  /** Low and high corners of each mesh, in the place of `bytes`, where all together are too large to be drawn. */
  boxes: Record<string, [number[], number[]]> | null;
  meshes: SceneDocument['geometry']['meshes'];
}

/** How far A is from B, B taken as the truth. */
export interface AgainstB {
  errors: PictureErrors;
}

/** Figures of a part of A and B; null for a slot that shows nothing there. */
export type WithinBoth = Record<'a' | 'b', Within | null>;

/** A small picture, ready for the screen. */
export interface SmallPicture {
  width: number;
  height: number;
  pixels: Uint8ClampedArray<ArrayBuffer>;
}

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
  | { type: 'probed'; id: number; a: ProbeValue | null; b: ProbeValue | null; depth: number | null }
  | { type: 'measured'; id: number; result: unknown }
  | { type: 'refused'; id: number; message: string }
  | { type: 'step'; id: number; done: number; of: number; words: string }
  | { type: 'reel'; kept: number[] }
  | { type: 'played'; frame: number }
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
