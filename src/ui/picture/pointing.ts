'use client';

import type { ItemRef } from '@/core/scene';
import type { Seen } from '@/render/questions/see';
import { type Aim, useAim } from '../state/aim-store';
import { useClient } from '../state/client';
import { useDesk } from '../state/desk-store';
import { useReady } from '../state/live-store';
import { patientNow } from '../state/scene-now';
import { useScene } from '../state/scene-store';
import { tell } from '../state/tell';
import { viewNamed } from '../views/registry';

/** Chooses what was seen, or nothing; with `add`, beside what is chosen. */
function choose(seen: Seen, lights: readonly string[], add: boolean): void {
  const item: ItemRef | null = seen.object
    ? { kind: 'object', name: seen.object }
    : seen.light && lights.includes(seen.light)
      ? { kind: 'light', name: seen.light }
      : null;
  const scene = useScene.getState();
  if (!item) scene.choose([]);
  else scene.choose(add ? [...scene.chosen.filter((c) => c.name !== item.name), item] : [item]);
  const { part, set } = useDesk.getState();
  if (item && part !== 'contents' && part !== 'surfaces') set({ part: 'contents' });
}

/** What a click into the picture does: serves an aim, or chooses what lies there. */
export function usePointing(): { aim: Aim | null; point: (at: { x: number; y: number }, add: boolean) => void } {
  const client = useClient();
  const ready = useReady();
  const aim = useAim((s) => s.aim);
  const point = (at: { x: number; y: number }, add: boolean) => {
    const desk = useDesk.getState();
    const patient = patientNow();
    if (!patient || !ready || (!aim && (!viewNamed(desk.view).chooses || desk.a.kind !== 'live'))) return;
    client
      .ask('see', { ...at, patient })
      .then((seen) => {
        if (!aim)
          choose(
            seen,
            patient.document.lights.map((l) => l.name),
            add,
          );
        else if (useAim.getState().aim?.by === aim.by && aim.take(seen, at) !== true) useAim.getState().end();
      })
      .catch(tell);
  };
  return { aim, point };
}
