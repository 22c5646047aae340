import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Run, RunFrame, RunLine } from '@/contract/run';
import { api } from './api';
import { useDesk } from './desk-store';
import { useShot } from './shot-store';
import { useTrials } from './trials-store';

/** Milliseconds between fetches of what changes with every frame: lines of runs, and all frames of one. */
const [LINES_MS, FRAMES_MS] = [700, 3000];

/** Fetches anew what a key names, at once or when it was fetched a while ago, and once more after what came meanwhile. */
function paced(queries: QueryClient, everyMs: number): (key: readonly unknown[]) => void {
  const last = new Map<string, number>();
  const timers = new Map<string, ReturnType<typeof setTimeout>>();
  return (key) => {
    const name = JSON.stringify(key);
    if (timers.has(name)) return;
    const wait = Math.max(0, (last.get(name) ?? 0) + everyMs - Date.now());
    timers.set(
      name,
      setTimeout(() => {
        timers.delete(name);
        last.set(name, Date.now());
        void queries.invalidateQueries({ queryKey: key });
      }, wait),
    );
  };
}

/** What the server tells of runs, taken in: a frame's news into its row, all else by fetching it. */
export function useRunEvents(): { changed: (id: string | null) => void; frame: (run: string, row: RunFrame) => void } {
  const queries = useQueryClient();
  return useMemo(() => {
    const lines = paced(queries, LINES_MS);
    const frames = paced(queries, FRAMES_MS);
    return {
      changed: (id) => {
        lines(['runs']);
        frames(id === null ? ['run'] : ['run', id]);
      },
      frame: (run, row) => {
        queries.setQueryData<Run>(['run', run], (known) =>
          known ? { ...known, rows: known.rows.map((r) => (r.id === row.id ? row : r)) } : known,
        );
        if (useTrials.getState().byId.has(row.id)) void takeFrame(row.id);
        lines(['runs']);
      },
    };
  }, [queries]);
}

const NONE: RunLine[] = [];

/** The shot's runs, newest first. */
export function useRuns(): RunLine[] {
  const shot = useShot((s) => s.id);
  const { data } = useQuery({ queryKey: ['runs', shot], queryFn: () => api.runs(shot), enabled: shot !== '' });
  return data ?? NONE;
}

/** The run that is looked at, of those of the shot; null while one is put together. */
export function usePickedRun(): RunLine | null {
  const id = useDesk((s) => s.run);
  return useRuns().find((r) => r.id === id) ?? null;
}

/** A run with all its frames; null until it is there. */
export function useRun(id: string | null): Run | null {
  const { data } = useQuery({
    queryKey: ['run', id],
    queryFn: async () => (await api.run(id!)).run,
    enabled: id !== null,
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
  });
  return data ?? null;
}

/** Takes in the line of a frame that is looked at. */
export async function takeFrame(id: string): Promise<void> {
  const line = await api.line(id).catch(() => null);
  if (line) useTrials.getState().put([line]);
}

/** Puts a frame of a run into A or B. */
export async function showFrame(id: string, slot: 'a' | 'b' = 'a'): Promise<void> {
  if (!useTrials.getState().byId.has(id)) await takeFrame(id);
  useDesk.getState().set({ [slot]: { kind: 'trial', id } });
}
