import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { Run, RunFrame } from '@/contract/run';
import type { FilmClient } from '@/render/page/client';
import { api } from './api';
import { useClient } from './client';
import { useDesk } from './desk-store';
import { usePlaying } from './player-store';
import { takeFrame, useRun } from './runs';
import { useDocument } from './scene-now';
import { wholeTrial } from './slots';
import { useTrial, useTrials } from './trials-store';

export const togglePlaying = (): void => usePlaying.setState(({ on }) => ({ on: !on }));

/** A frame that takes longer than this to be shown is not waited for. */
const LATE_MS = 1500;

/** Resolves once A has been drawn anew. */
const drawn = (client: FilmClient): Promise<void> =>
  new Promise((resolve) => {
    const end = () => {
      clearTimeout(timer);
      off();
      resolve();
    };
    const off = client.on('picture', ({ slot }) => slot === 'A' && end());
    const timer = setTimeout(end, LATE_MS);
  });

/** Shows frames in A and B, with all that views tell of them at hand, so that they show them at once as they show others. */
async function show(client: FilmClient, queries: QueryClient, id: string, beside: string | null): Promise<void> {
  for (const one of [id, beside]) {
    if (one === null) continue;
    if (!useTrials.getState().byId.has(one)) await takeFrame(one);
    const line = useTrials.getState().byId.get(one);
    if (line) await queries.ensureQueryData(wholeTrial(line));
  }
  const { a, set } = useDesk.getState();
  if (a.kind === 'trial' && a.id === id) return;
  const shown = drawn(client);
  set({ a: { kind: 'trial', id }, ...(beside ? { b: { kind: 'trial' as const, id: beside } } : {}) });
  await shown;
}

/** Frames of a picture of a run that can be shown. */
export const playable = (rows: readonly RunFrame[], picture: number) =>
  rows.filter((r) => r.picture === picture && r.state === 'done');

/**
 * Plays the frames of a run that are done, at the shot's rate or as fast as they are there, going round. Where B shows a frame of
 * another run, it follows with the same frame of that.
 */
export function useFramesPlaying(run: Run | null): void {
  const client = useClient();
  const queries = useQueryClient();
  const { on, picture } = usePlaying();
  const { perSecond } = useDocument().frames;
  const id = run?.id;
  useEffect(() => {
    if (!on || !id) return;
    let going = true;
    const play = async () => {
      const { b } = useDesk.getState();
      const beside = b?.kind === 'trial' ? (useTrials.getState().byId.get(b.id)?.run ?? null) : null;
      const others = beside && beside.id !== id ? playable((await api.run(beside.id)).rows, beside.picture) : [];
      const start = performance.now();
      let last = -1;
      while (going) {
        const rows = playable(queries.getQueryData<Run>(['run', id])?.rows ?? [], picture);
        const due = Math.floor(((performance.now() - start) / 1000) * perSecond);
        if (rows.length < 2) return usePlaying.setState({ on: false });
        if (due === last) await new Promise((r) => setTimeout(r, 4));
        else {
          last = due;
          const row = rows[due % rows.length];
          await show(client, queries, row.id, others.find((o) => o.frame === row.frame)?.id ?? null);
        }
      }
    };
    play().catch(() => usePlaying.setState({ on: false }));
    return () => {
      going = false;
    };
  }, [on, id, picture, perSecond, client, queries]);
  // Another run, or none, plays nothing.
  // biome-ignore lint/correctness/useExhaustiveDependencies: ends with the run that played
  useEffect(() => () => usePlaying.setState({ on: false }), [id]);
}

/** The run of which A shows a frame; null where it shows something else. */
export function useRunInA(): Run | null {
  const id = useDesk(({ a }) => (a.kind === 'trial' ? a.id : null));
  return useRun(useTrial(id)?.run?.id ?? null);
}
