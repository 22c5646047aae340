import type { Factors } from '@/core/film';
import type { Look } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import type { Camera, SceneDocument } from '@/core/scene';
import type { Asked, QuestionName } from '../questions';
import type { View } from '../views/show';
import type { Slot, Source } from './told';

/** What the page tells the film worker. */
export type ToFilm =
  | { type: 'open'; threads: number }
  | { type: 'live'; document: SceneDocument; recipe: Recipe; camera: string; frame: number }
  | { type: 'halt' }
  | { type: 'pause'; on: boolean }
  | { type: 'show'; slot: Slot; source: Source | null }
  | { type: 'view'; a: View; b: View; exposure: number; sceneExposure: number; look: Look; smooth: boolean }
  | { type: 'probe'; id: number; x: number; y: number; look: { camera: Camera; frame: number; aspect: number } | null }
  | ToAsk
  /** `mixes`: factors of light groups by frame, where frames are played in a mix. */
  | {
      type: 'play';
      on: boolean;
      first: number;
      last: number;
      perSecond: number;
      mixes: { groups: string[]; factors: Record<number, Factors> } | null;
    }
  | { type: 'cancel'; id: number };

/** A question with its name, one member a name. */
export type ToAsk = { [K in QuestionName]: { type: 'ask'; id: number; what: K; asked: Asked<K> } }[QuestionName];
