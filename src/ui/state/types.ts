import type { Balance, FilmFigures, FilmSpec } from '@/core/film';
import type { Recipe } from '@/core/recipe';
import type { SceneDocument } from '@/core/scene';
import type { Noise } from '@/core/stats';
import type { Prediction } from '@/render/proposal';

/** What the server says of a shot, as JSON. */
export interface ShotData {
  shot: { id: string; name: string; baseline: string | null };
  revision: { id: string; number: number; document: SceneDocument; geometry: string };
  draft: { version: number; recipe: Recipe; revision: string; scene: SceneDocument | null };
  trials: Trial[];
  workers: number;
  storedBytes: number;
}

/** A scene revision in a list: what it changed against the one before. */
export interface RevisionLine {
  id: string;
  number: number;
  words: string[];
  trials: number;
  createdAt: string;
}

export type TrialState = 'queued' | 'rendering' | 'storing' | 'done' | 'stopped' | 'failed';

export interface Trial {
  id: string;
  shot: string;
  number: number;
  revision: string;
  recipe: Recipe;
  camera: string;
  frame: number | null;
  parent: string | null;
  title: string;
  note: string;
  starred: boolean;
  state: TrialState;
  fraction: number;
  leftMs: number | null;
  fault: string | null;
  seconds: { load: number; trace: number; calibrated: number; write: number } | null;
  noise: Noise | null;
  figures: FilmFigures | null;
  spec: FilmSpec | null;
  predicted: Prediction | null;
  ladder: LadderStep | null;
  createdAt: string;
}

/** Which ladder a trial is a step of, and what it sets. */
export interface LadderStep {
  id: string;
  at: { label: string; value: number | string }[];
}

export interface Mood {
  id: string;
  name: string;
  balance: Balance;
}

export const finished = (t: Trial) => t.state === 'done' || t.state === 'stopped';
export const running = (t: Trial) => t.state === 'queued' || t.state === 'rendering' || t.state === 'storing';
