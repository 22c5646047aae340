import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Movie } from '@/contract/movie';
import type { Run, RunFrame, RunLine } from '@/contract/run';
import { api } from './api';
import { useDesk } from './desk-store';
import { useShot } from './shot-store';
import { useTrials } from './trials-store';

/** Milliseconds between fetches of what changes with every frame: lines of runs, and all frames of one. */
const [LINES_MS, FRAMES_MS] = [700, 1000];
/** Milliseconds between news of frames that are put into the page. */
const NEWS_MS = 250;

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

/** News of frames, put into the rows of their runs a few times a second: many workers tell of many frames. */
function gathered(queries: QueryClient): (run: string, row: RunFrame) => void {
  const news = new Map<string, Map<string, RunFrame>>();
  let timer: ReturnType<typeof setTimeout> | null = null;
  const put = () => {
    timer = null;
    for (const [run, rows] of news)
      queries.setQueryData<Run>(['run', run], (known) =>
        known ? { ...known, rows: known.rows.map((r) => rows.get(r.id) ?? r) } : known,
      );
    news.clear();
  };
  return (run, row) => {
    news.set(run, (news.get(run) ?? new Map()).set(row.id, row));
    if (timer === null) timer = setTimeout(put, NEWS_MS);
  };
}

/** What the server tells of runs, taken in: a frame's news into its row, all else by fetching it. */
export function useRunEvents(): {
  /** `frames`: whether many of its frames may be others. */
  changed: (id: string | null, frames: boolean) => void;
  frame: (run: string, row: RunFrame) => void;
} {
  const queries = useQueryClient();
  return useMemo(() => {
    const lines = paced(queries, LINES_MS);
    const wholes = paced(queries, FRAMES_MS);
    const news = gathered(queries);
    return {
      changed: (id, frames) => {
        lines(['runs']);
        lines(['movies']);
        if (frames) wholes(id === null ? ['run'] : ['run', id]);
      },
      frame: (run, row) => {
        news(run, row);
        if (useTrials.getState().byId.has(row.id) && row.state !== 'rendering') void takeFrame(row.id);
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
    queryFn: () => api.run(id!),
    enabled: id !== null,
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
  });
  return data ?? null;
}

const NO_MOVIES: Movie[] = [];

/** Movies of a run, the last one first. */
export function useMovies(id: string): Movie[] {
  const { data } = useQuery({ queryKey: ['movies', id], queryFn: () => api.movies(id) });
  return data ?? NO_MOVIES;
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
