import { useEffect } from 'react';
import type { LastDesk } from '@/contract/desk';
import { api } from './api';
import { useDesk } from './desk-store';
import { useShot } from './shot-store';

const KEPT = 'lantern-desk';
const REST_MS = 1500;

/** Whether this browser has a desk of its own; without one it goes on where another left off. */
export const isNewHere = (storage: Pick<Storage, 'getItem'> = localStorage): boolean => storage.getItem(KEPT) === null;

/** Shows what was last looked at elsewhere. */
export function takeDesk({ view, a, b }: LastDesk): void {
  useDesk.getState().set({ view, a, b });
}

/** Tells the server what is looked at, once it has been for a moment, so that another browser can go on there. */
export function useKeptDesk(restMs = REST_MS): void {
  const shot = useShot((s) => s.name);
  const desk = useDesk((s) => JSON.stringify({ view: s.view, a: s.a, b: s.b }));
  useEffect(() => {
    if (shot === '') return;
    // Nothing is lost with it: a server that is away is told by what matters more.
    const timer = setTimeout(() => void api.keepDesk({ shot, ...JSON.parse(desk) }).catch(() => {}), restMs);
    return () => clearTimeout(timer);
  }, [shot, desk, restMs]);
}
