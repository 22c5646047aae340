'use client';

import { useMemo } from 'react';
import { isUnderWay } from '@/contract/denoised';
import { finished, running } from '@/contract/trial';
import { PRESETS, type PresetName } from '@/core/recipe';
import { useImport } from '../import/import-store';
import { useLadder } from '../ladder/ladder-store';
import { removeSamples } from '../logbook/samples';
import { takeReport } from '../logbook/take-report';
import { copyPicture } from '../picture/copy';
import { useAim } from '../state/aim-store';
import { api } from '../state/api';
import { toggleDenoised } from '../state/denoising';
import { type Compare, type Desk, type Surround, useDesk } from '../state/desk-store';
import { escapeFirst } from '../state/escape';
import { redo, undo, useHistory } from '../state/history';
import { logTrial, saying } from '../state/log-trial';
import { pageName } from '../state/mirror';
import { isAgainstB, OVERLAYS, type OverlayName } from '../state/overlays';
import { useRecipe } from '../state/recipe-store';
import { useShot } from '../state/shot-store';
import { takeRecipe } from '../state/take-recipe';
import { tell } from '../state/tell';
import { trialsOf, useTrials } from '../state/trials-store';
import { choose, roleNow } from '../state/variants';
import { UPRIGHT, useViewport } from '../state/viewport-store';
import { VIEWS } from '../views/registry';

export const SECTIONS = ['Views', 'Picture', 'Scene', 'Trials', 'Recipe'] as const;

/** One thing the user can do: by name in the palette, by key, listed in the help of keys. */
export interface Command {
  name: string;
  /** What it would do now. */
  detail?: string;
  section: (typeof SECTIONS)[number];
  /** As react-hotkeys-hook writes keys. */
  keys?: string;
  /** As the help shows them. */
  shown?: string;
  run: () => void;
  /** What a key does while it is held, in place of `run`. */
  held?: (down: boolean) => void;
}

const desk = (): Desk => useDesk.getState();
const set = (change: Partial<Desk>): void => desk().set(change);
/** The trial in A, where there is one. */
const trialA = (): string | null => {
  const { a } = desk();
  return a.kind === 'trial' ? a.id : null;
};

const toggled = (overlay: OverlayName): OverlayName => (desk().overlay === overlay ? 'none' : overlay);

function compare(way: Compare): void {
  const { overlay, compare: now } = desk();
  const against = isAgainstB(overlay);
  set({ compare: now === way && !against ? 'a' : way, overlay: against ? 'none' : overlay });
}

/** Puts the finished trial one step older or newer than A's into A. */
function stepTrial(step: 1 | -1): void {
  const list = trialsOf(useTrials.getState()).filter(finished);
  const at = list.findIndex((t) => t.id === trialA());
  const next = at < 0 ? (step === 1 ? list[0] : undefined) : list[at + step];
  if (next) set({ a: { kind: 'trial', id: next.id } });
}

/** Ends what is under way, the nearest first. */
function stop(): void {
  if (escapeFirst()) return;
  const all = trialsOf(useTrials.getState());
  const job = all.find(running);
  const denoised = all.find((t) => isUnderWay(t.denoised));
  if (useAim.getState().aim) useAim.getState().end();
  else if (roleNow()) choose(null);
  else if (desk().drawing) set({ drawing: false });
  else if (denoised) saying(api.stopDenoising(denoised.id));
  else if (job) saying(api.stopTrial(job.id));
  else if (desk().live) set({ live: false });
}

async function takeRecipeOfA(): Promise<void> {
  const id = trialA();
  if (id) takeRecipe((await api.trial(id)).trial);
}

function toggleClay(): void {
  const { recipe, set: setting } = useRecipe.getState();
  if (recipe) setting('clay.on', !recipe.clay.on);
}

const views: Command[] = VIEWS.map(({ name, label, key }) => ({
  name: label,
  section: 'Views',
  keys: key,
  shown: key,
  run: () => set({ view: name, overlay: 'none' }),
}));

const overlays: Command[] = Object.entries(OVERLAYS).map(([name, { command, keys, shown }]) => ({
  name: command,
  section: 'Picture',
  keys,
  shown,
  run: () => set({ overlay: toggled(name as OverlayName), noiseOf: null }),
}));

const surround = (name: string, to: Surround): Command => ({
  name: `Surround: ${name}`,
  section: 'Picture',
  run: () => set({ surround: to }),
});
const stops = (name: string, by: number, keys: string, shown: string): Command => ({
  name,
  section: 'Picture',
  keys,
  shown,
  run: () => set({ viewStops: desk().viewStops + by }),
});

const PICTURE: Command[] = [
  {
    name: 'Live picture on or off',
    section: 'Picture',
    keys: 'l',
    shown: 'L',
    run: () => set({ live: !desk().live }),
  },
  {
    name: 'Picture in a window of its own',
    section: 'Picture',
    run: () => window.open(`/picture?of=${pageName()}`, `lantern-picture-${pageName()}`, 'popup,width=1280,height=720'),
  },
  { name: 'Show the live picture in A', section: 'Picture', run: () => set({ a: { kind: 'live' } }) },
  { name: 'Wipe between A and B', section: 'Picture', keys: 'x', shown: 'X', run: () => compare('wipe') },
  { name: 'A and B side by side', section: 'Picture', keys: 'shift+x', shown: 'Shift X', run: () => compare('beside') },
  { name: 'A and B by turns (flicker)', section: 'Picture', run: () => compare('turns') },
  {
    name: 'Wipe line upright again',
    section: 'Picture',
    run: () => {
      useViewport.setState({ parting: UPRIGHT });
      set({ compare: 'wipe' });
    },
  },
  {
    name: 'Smooth the live picture, or show it as it is',
    section: 'Picture',
    keys: 'shift+q',
    shown: 'Shift Q',
    run: () => set({ smooth: !desk().smooth }),
  },
  { name: 'Denoise A, or show it as it was rendered', section: 'Picture', keys: 'q', shown: 'Q', run: toggleDenoised },
  ...overlays,
  stops('View half a stop brighter', 0.5, 'e', 'E'),
  stops('View half a stop darker', -0.5, 'shift+e', 'Shift E'),
  { name: 'View at the camera’s exposure', section: 'Picture', run: () => set({ viewStops: 0 }) },
  {
    name: 'Fit the picture',
    section: 'Picture',
    keys: 'f',
    shown: 'F',
    run: () => useViewport.setState({ zoom: null, pan: { x: 0, y: 0 } }),
  },
  {
    name: 'One film pixel to one screen pixel',
    section: 'Picture',
    keys: '0',
    shown: '0',
    run: () =>
      useViewport.setState({
        zoom: (useRecipe.getState().recipe?.size.scale ?? 100) / 100 / window.devicePixelRatio,
        pan: { x: 0, y: 0 },
      }),
  },
  {
    name: 'Copy the picture',
    section: 'Picture',
    keys: 'mod+shift+c',
    shown: 'Ctrl Shift C',
    run: () => void copyPicture(),
  },
  surround('dark', 'dark'),
  surround('18 % grey', 'grey'),
  surround('light', 'light'),
];

const PAGE: Command[] = [
  {
    name: 'Every command by name',
    section: 'Views',
    keys: 'mod+k',
    shown: 'Ctrl K',
    run: () => set({ paletteOpen: !desk().paletteOpen }),
  },
  {
    name: 'Help: all keys',
    section: 'Views',
    keys: '?',
    shown: '?',
    run: () => set({ helpOpen: !desk().helpOpen }),
  },
];

const SCENE: Command[] = [
  { name: 'Bring in a file', section: 'Scene', run: () => void useImport.getState().open() },
  { name: 'Clay on or off', section: 'Scene', keys: 'k', shown: 'K', run: toggleClay },
  ...VIEWS.flatMap((v) => v.commands ?? []).map((c): Command => ({ ...c, section: 'Scene' })),
];

const TRIALS: Command[] = [
  { name: 'Draw a region', section: 'Trials', keys: 'r', shown: 'R', run: () => set({ drawing: true }) },
  {
    name: 'Clear the region',
    section: 'Trials',
    keys: 'shift+r',
    shown: 'Shift R',
    run: () => useRecipe.getState().set('region', null),
  },
  { name: 'Log a trial', section: 'Trials', keys: 't', shown: 'T', run: () => void logTrial() },
  { name: 'Stop what is under way', section: 'Trials', keys: 'esc', shown: 'Esc', run: stop },
  {
    name: 'Ladder: step a setting',
    section: 'Trials',
    keys: 'shift+t',
    shown: 'Shift T',
    run: () => useLadder.setState({ making: true }),
  },
  { name: 'Take the samples out of the logbook', section: 'Trials', run: () => void removeSamples() },
  { name: 'Older trial into A', section: 'Trials', keys: '[', shown: '[', run: () => stepTrial(1) },
  { name: 'Newer trial into A', section: 'Trials', keys: ']', shown: ']', run: () => stepTrial(-1) },
  {
    name: 'Make A the baseline',
    section: 'Trials',
    keys: 'b',
    shown: 'B',
    run: () => {
      const id = trialA();
      if (id) saying(api.setBaseline(useShot.getState().id, id));
    },
  },
  {
    name: 'Report of A, against B',
    section: 'Trials',
    run: () => {
      const id = trialA();
      if (id) takeReport(id);
    },
  },
  {
    name: 'Swap A and B',
    section: 'Trials',
    run: () => {
      const { a, b } = desk();
      if (b) set({ a: b, b: a });
    },
  },
];

const RECIPES: Command[] = [
  { name: 'Take A’s recipe', section: 'Recipe', run: () => void takeRecipeOfA().catch(tell) },
  ...(Object.keys(PRESETS) as PresetName[]).map(
    (name): Command => ({
      name: `Recipe: ${name}`,
      section: 'Recipe',
      run: () => useRecipe.getState().replace(PRESETS[name]),
    }),
  ),
];

const ALL: Command[] = [...views, ...PAGE, ...PICTURE, ...SCENE, ...TRIALS, ...RECIPES];

/** Every command, with what undo and redo would do now. */
export function useCommands(): Command[] {
  const last = useHistory((s) => s.past.at(-1)?.words);
  const next = useHistory((s) => s.future[0]?.words);
  return useMemo(
    () => [
      ...ALL,
      { name: 'Undo', detail: last, section: 'Scene', keys: 'mod+z', shown: 'Ctrl Z', run: () => undo() },
      { name: 'Redo', detail: next, section: 'Scene', keys: 'mod+shift+z', shown: 'Ctrl Shift Z', run: () => redo() },
    ],
    [last, next],
  );
}
