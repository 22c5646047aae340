import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { OverlayName } from './overlays';
import { patientStorage } from './patient-storage';

export type SetupPart = 'contents' | 'lights' | 'sky' | 'camera' | 'surfaces' | 'why';
export type Compare = 'wipe' | 'beside' | 'turns' | 'a';
export type Guide = 'none' | 'thirds' | 'middle' | 'safe' | '2.39:1' | '1.85:1' | '1:1';
/** `denoised`: the trial as denoising left it. `reference`: a picture or plate of the scene's contents, by name. */
export type Pick =
  | { kind: 'live' }
  | { kind: 'trial'; id: string; denoised?: boolean }
  | { kind: 'reference'; name: string };
export type Surround = 'dark' | 'grey' | 'light';

/** The drawer's face that every view has. */
export const LOGBOOK = 'logbook';
export const DRAWER_HEIGHT = 208;

export interface Desk {
  /** Name of the view whose panel is shown, as the registry has it. */
  view: string;
  /** Part of Set-up that its panel shows. */
  part: SetupPart;
  /** Whether the working view of the space is open. */
  space: boolean;
  /** Camera looked through and frame; null = the shot's first. */
  camera: string | null;
  frame: number | null;
  guide: Guide;
  /** The one light that is on, for looking. */
  solo: string | null;
  live: boolean;
  a: Pick;
  b: Pick | null;
  overlay: OverlayName;
  /** Light group whose noise the noise map shows; null = the picture's. */
  noiseOf: string | null;
  /** Layer looked at in Split. */
  layer: string;
  /** The output that is edited, by its id; null = the first. */
  output: string | null;
  range: [number, number] | null;
  /** How A and B are shown: parted by a line, beside each other, by turns, or A alone. */
  compare: Compare;
  /** Gain of A − B; null fits the scale to what differs. */
  differenceGain: number | null;
  viewStops: number;
  /** Whether the live picture is smoothed for looking at it. */
  smooth: boolean;
  surround: Surround;
  drawing: boolean;
  target: number;
  /** What the target is for: null the picture as it is, '' the noisiest of the shot's moods, or one of them by its id. */
  targetMood: string | null;
  budgetSeconds: number;
  /** Time of day by which a sequence is to be done, and on how many workers; null = those there are. */
  dueAt: string;
  dueWorkers: number | null;
  /** Light groups that are on for looking in Balance, and no others; none = all. */
  alone: string[];
  /** Whether A shows its film as it was rendered, for as long as a key is held. */
  asRendered: boolean;
  /** Mood that B shows in Balance, by its id; '' = as rendered, null = the mix at hand. */
  moodB: string | null;
  /** Frame at which the stack is looked at in Comp; null = that of what A shows. */
  stackFrame: number | null;
  /** Whether Set-up and Tune show the picture through the stack too. */
  throughStack: boolean;
  /** Mask of the stack that is looked at in Comp; null for none. */
  stackMask: string | null;
  /** Entry of the stack that is open in Comp, by where it stands. */
  entry: string | null;
  /** The run that is looked at in Runs, by its id; null while one is put together. */
  run: string | null;
  /** What the drawer shows: the logbook, or a face of the view. */
  face: string;
  /** Height of the drawer in pixels. */
  drawerHeight: number;
  /** Limit of the ledger's axis at which A is shown; null shows all of it. */
  depthLimit: number | null;
  depthDifference: boolean;
  paletteOpen: boolean;
  helpOpen: boolean;
  set: (change: Partial<Desk>) => void;
}

/** What this tab looks at and how; kept over a reload. */
export const useDesk = create<Desk>()(
  persist(
    (set) => ({
      view: 'tune',
      part: 'contents',
      space: true,
      camera: null,
      frame: null,
      guide: 'none',
      solo: null,
      live: true,
      a: { kind: 'live' },
      b: null,
      overlay: 'none',
      noiseOf: null,
      layer: 'beauty',
      output: null,
      range: null,
      compare: 'wipe',
      differenceGain: null,
      viewStops: 0,
      smooth: false,
      surround: 'dark',
      drawing: false,
      target: 2,
      targetMood: null,
      budgetSeconds: 120,
      dueAt: '08:00',
      dueWorkers: null,
      alone: [],
      asRendered: false,
      moodB: null,
      stackFrame: null,
      throughStack: false,
      run: null,
      stackMask: null,
      entry: null,
      face: LOGBOOK,
      drawerHeight: DRAWER_HEIGHT,
      depthLimit: null,
      depthDifference: false,
      paletteOpen: false,
      helpOpen: false,
      set: (change) => set(change),
    }),
    {
      name: 'lantern-desk',
      storage: patientStorage(),
      partialize: ({
        paletteOpen: _p,
        helpOpen: _h,
        drawing: _d,
        solo: _o,
        depthLimit: _l,
        alone: _a,
        asRendered: _r,
        stackMask: _m,
        set: _s,
        ...kept
      }) => kept,
    },
  ),
);
