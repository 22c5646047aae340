'use client';

import { toast } from 'sonner';
import type { ItemRef } from '@/core/scene';
import type { Seen } from '@/render/film-protocol';
import { usePatient } from '../setup/use-patient';
import { type Aim, useAim } from '../state/aim-store';
import { useDesk } from '../state/desk-store';
import { useScene } from '../state/scene-store';
import { useSession } from '../state/session';

/** What a click into the picture does: serves an aim, or chooses what lies there. */
export function usePointing(): { aim: Aim | null; point: (at: { x: number; y: number }, add: boolean) => void } {
  const { client, ready } = useSession();
  const patient = usePatient();
  const aim = useAim((s) => s.aim);
  const point = (at: { x: number; y: number }, add: boolean) => {
    const desk = useDesk.getState();
    if (!patient || !ready || (!aim && (desk.view !== 'setup' || desk.a.kind !== 'live'))) return;
    client
      .measure<Seen>({ type: 'measure', what: 'see', ...at, patient })
      .then((seen) => {
        if (aim) {
          if (useAim.getState().aim?.by === aim.by && aim.take(seen, at) !== true) useAim.getState().end();
          return;
        }
        const item: ItemRef | null = seen.object
          ? { kind: 'object', name: seen.object }
          : seen.light && patient.document.lights.some((l) => l.name === seen.light)
            ? { kind: 'light', name: seen.light }
            : null;
        const { chosen, choose } = useScene.getState();
        if (!item) choose([]);
        else choose(add ? [...chosen.filter((c) => c.name !== item.name), item] : [item]);
        if (item && useDesk.getState().part !== 'contents' && useDesk.getState().part !== 'surfaces')
          useDesk.getState().set({ part: 'contents' });
      })
      .catch((e) => toast.error((e as Error).message));
  };
  return { aim, point };
}
