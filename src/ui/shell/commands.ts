'use client';

import { useMemo } from 'react';
import { PRESETS, type PresetName } from '@/core/recipe';
import { useImport } from '../import/import-store';
import { useLadder } from '../ladder/ladder-store';
import { aimChosen, copyChosen, removeChosen, snapChosen } from '../setup/actions';
import { useAim } from '../state/aim-store';
import { api } from '../state/api';
import { type Compare, type Pick, useDesk, type ViewName } from '../state/desk-store';
import { escapeFirst } from '../state/escape';
import { useRecipe } from '../state/recipe-store';
import { type Session, tell, useSession } from '../state/session';
import { finished, running } from '../state/types';
import { redo, undo } from '../state/undo';

/** One thing the user can do: by name in the palette, by key, listed in the help of keys. */
export interface Command {
  name: string;
  section: 'Views' | 'Picture' | 'Scene' | 'Trials' | 'Recipe';
  /** As react-hotkeys-hook writes keys. */
  keys?: string;
  /** As the help shows them. */
  shown?: string;
  run: () => void;
}

/** The finished trial one step older or newer than what A shows. */
function neighbour(session: Session, step: 1 | -1): Pick | null {
  const list = session.data.trials.filter(finished);
  const at = list.findIndex((t) => t.id === session.trialA?.id);
  const next = at < 0 ? (step === 1 ? list[0] : undefined) : list[at + step];
  return next ? { kind: 'trial', id: next.id } : null;
}

export function useCommands(): Command[] {
  const session = useSession();
  return useMemo(() => {
    const desk = useDesk.getState;
    const set = desk().set;
    const view = (v: ViewName) => () => set({ view: v, overlay: 'none' });
    const overlay = (o: ReturnType<typeof desk>['overlay']) => () =>
      set({ overlay: desk().overlay === o ? 'none' : o });
    const compare = (c: Compare) => () => {
      const { overlay, compare: now } = desk();
      const against = overlay === 'difference' || overlay === 'flip';
      set({ compare: now === c && !against ? 'a' : c, overlay: against ? 'none' : overlay });
    };
    const step = (s: 1 | -1) => () => {
      const next = neighbour(session, s);
      if (next) set({ a: next });
    };
    const recipes = (Object.keys(PRESETS) as PresetName[]).map(
      (name): Command => ({
        name: `Recipe: ${name}`,
        section: 'Recipe',
        run: () => useRecipe.getState().replace(PRESETS[name]),
      }),
    );
    return [
      { name: 'Set-up', section: 'Views', keys: '1', shown: '1', run: view('setup') },
      { name: 'Tune', section: 'Views', keys: '2', shown: '2', run: view('tune') },
      { name: 'Split', section: 'Views', keys: '3', shown: '3', run: view('split') },
      { name: 'Balance', section: 'Views', keys: '4', shown: '4', run: view('balance') },
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
      {
        name: 'Live picture on or off',
        section: 'Picture',
        keys: 'l',
        shown: 'L',
        run: () => set({ live: !desk().live }),
      },
      { name: 'Show the live picture in A', section: 'Picture', run: () => set({ a: { kind: 'live' } }) },
      {
        name: 'Wipe between A and B',
        section: 'Picture',
        keys: 'x',
        shown: 'X',
        run: compare('wipe'),
      },
      { name: 'A and B side by side', section: 'Picture', keys: 'shift+x', shown: 'Shift X', run: compare('beside') },
      { name: 'A and B by turns (flicker)', section: 'Picture', run: compare('turns') },
      {
        name: 'Wipe line upright again',
        section: 'Picture',
        run: () => set({ parting: { x: 0.5, y: 0.5, degrees: 0 }, compare: 'wipe' }),
      },
      { name: 'Difference A − B', section: 'Picture', keys: 'd', shown: 'D', run: overlay('difference') },
      {
        name: 'Noise map',
        section: 'Picture',
        keys: 'n',
        shown: 'N',
        run: () => set({ overlay: desk().overlay === 'noise' ? 'none' : 'noise', noiseOf: null }),
      },
      { name: 'Cost map', section: 'Picture', keys: 'c', shown: 'C', run: overlay('cost') },
      { name: 'Tally error of light groups', section: 'Picture', run: overlay('tally-group') },
      { name: 'Tally error of path classes', section: 'Picture', run: overlay('tally-class') },
      {
        name: 'View half a stop brighter',
        section: 'Picture',
        keys: 'e',
        shown: 'E',
        run: () => set({ viewStops: desk().viewStops + 0.5 }),
      },
      {
        name: 'View half a stop darker',
        section: 'Picture',
        keys: 'shift+e',
        shown: 'Shift E',
        run: () => set({ viewStops: desk().viewStops - 0.5 }),
      },
      { name: 'View at the camera’s exposure', section: 'Picture', run: () => set({ viewStops: 0 }) },
      {
        name: 'Fit the picture',
        section: 'Picture',
        keys: 'f',
        shown: 'F',
        run: () => set({ zoom: null, pan: { x: 0, y: 0 } }),
      },
      {
        name: 'One film pixel to one screen pixel',
        section: 'Picture',
        keys: '0',
        shown: '0',
        run: () =>
          set({
            zoom: (useRecipe.getState().recipe?.size.scale ?? 100) / 100 / window.devicePixelRatio,
            pan: { x: 0, y: 0 },
          }),
      },
      { name: 'Surround: dark', section: 'Picture', run: () => set({ surround: 'dark' }) },
      { name: 'Surround: 18 % grey', section: 'Picture', run: () => set({ surround: 'grey' }) },
      { name: 'Surround: light', section: 'Picture', run: () => set({ surround: 'light' }) },
      {
        name: 'Clipped and black pixels',
        section: 'Picture',
        run: overlay('clipped'),
      },
      { name: 'Bring in a file', section: 'Scene', run: () => void useImport.getState().open() },
      { name: 'Remove what is chosen', section: 'Scene', keys: 'del', shown: 'Del', run: removeChosen },
      {
        name: 'Copy what is chosen',
        section: 'Scene',
        keys: 'mod+d',
        shown: 'Ctrl D',
        run: () => copyChosen(false),
      },
      { name: 'Aim what is chosen at a click', section: 'Scene', run: aimChosen },
      { name: 'Put what is chosen onto a surface', section: 'Scene', run: snapChosen },
      {
        name: 'Clay on or off',
        section: 'Scene',
        keys: 'k',
        shown: 'K',
        run: () => {
          const { recipe, set: setting } = useRecipe.getState();
          if (recipe) setting('clay.on', !recipe.clay.on);
        },
      },
      { name: 'Why does it look like this?', section: 'Scene', run: () => set({ view: 'setup', part: 'why' }) },
      { name: 'Draw a region', section: 'Trials', keys: 'r', shown: 'R', run: () => set({ drawing: true }) },
      {
        name: 'Clear the region',
        section: 'Trials',
        keys: 'shift+r',
        shown: 'Shift R',
        run: () => useRecipe.getState().set('region', null),
      },
      { name: 'Log a trial', section: 'Trials', keys: 't', shown: 'T', run: () => void session.logTrial() },
      {
        name: 'Stop what is under way',
        section: 'Trials',
        keys: 'esc',
        shown: 'Esc',
        run: () => {
          if (escapeFirst()) return;
          if (useAim.getState().aim) return useAim.getState().end();
          if (desk().drawing) return set({ drawing: false });
          const job = session.data.trials.find(running);
          if (job) api.stopTrial(job.id).catch(tell);
          else if (desk().live) set({ live: false });
        },
      },
      {
        name: 'Ladder: step a setting',
        section: 'Trials',
        keys: 'shift+t',
        shown: 'Shift T',
        run: () => useLadder.setState({ making: true }),
      },
      { name: 'Older trial into A', section: 'Trials', keys: '[', shown: '[', run: step(1) },
      { name: 'Newer trial into A', section: 'Trials', keys: ']', shown: ']', run: step(-1) },
      {
        name: 'Make A the baseline',
        section: 'Trials',
        keys: 'b',
        shown: 'B',
        run: () => {
          if (session.trialA) api.setBaseline(session.data.shot.id, session.trialA.id).then(session.refresh, tell);
        },
      },
      { name: 'Swap A and B', section: 'Trials', run: () => desk().b && set({ a: desk().b!, b: desk().a }) },
      {
        name: 'Take A’s recipe',
        section: 'Recipe',
        run: () => session.trialA && useRecipe.getState().replace(session.trialA.recipe),
      },
      { name: 'Undo', section: 'Scene', keys: 'mod+z', shown: 'Ctrl Z', run: undo },
      {
        name: 'Redo',
        section: 'Scene',
        keys: 'mod+shift+z',
        shown: 'Ctrl Shift Z',
        run: redo,
      },
      ...recipes,
    ];
  }, [session]);
}
