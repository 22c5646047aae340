'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { LastDesk } from '@/contract/desk';
import { eventSchema } from '@/contract/events';
import { FilmClient } from '@/render/page/client';
import { api } from '../state/api';
import { ClientContext } from '../state/client';
import { useDesk } from '../state/desk-store';
import { TAB, useDraft } from '../state/draft';
import { isNewHere, takeDesk } from '../state/last-desk';
import { useLive } from '../state/live-store';
import { useRunEvents } from '../state/runs';
import { useScene } from '../state/scene-store';
import { useShot } from '../state/shot-store';
import { useTrials } from '../state/trials-store';
import { FilmLink } from './film-link';

/** The film worker for as long as the page is open. */
function useFilmWorker(): FilmClient | null {
  const [client, setClient] = useState<FilmClient | null>(null);
  useEffect(() => {
    const made = new FilmClient();
    made.on('status', ({ status }) => useLive.setState({ status }));
    made.on('fault', ({ message }) => toast.error(message));
    const half = Math.max(1, Math.floor((navigator.hardwareConcurrency || 2) / 2));
    made.send({ type: 'open', threads: half });
    setClient(made);
    return () => made.close();
  }, []);
  return client;
}

/** Takes one trial as it is now; one that is not in the logbook any more leaves it. */
async function takeTrial(id: string): Promise<void> {
  const line = await api.line(id);
  if (line) useTrials.getState().put([line]);
  else useTrials.getState().drop(id);
}

/** Fetches the logbook page by page, the newest first, and takes in what has changed meanwhile. */
async function takeLogbook(shot: string, signal: AbortSignal): Promise<void> {
  const seen = new Set<string>();
  for (let before: number | null = null; ; ) {
    const { trials, total } = await api.trials(shot, before, signal);
    if (signal.aborted) return;
    useTrials.getState().put(trials, total);
    for (const t of trials) seen.add(t.id);
    if (trials.length === 0 || seen.size >= total) break;
    before = trials[trials.length - 1].number;
  }
  // Frames of runs are in no logbook.
  const { a, b } = useDesk.getState();
  for (const pick of [a, b]) {
    const line = pick?.kind === 'trial' && !seen.has(pick.id) ? await api.line(pick.id) : null;
    if (line?.run && line.shot === shot) useTrials.getState().put([line]);
  }
  useTrials.setState({ complete: true });
  // What left the logbook while nobody told.
  for (const id of useTrials.getState().order) if (!seen.has(id)) await takeTrial(id);
}

/** Follows what the server tells: an event changes what it is about, and nothing else is fetched. */
function useEvents(shot: string | undefined, draftChanged: () => void): void {
  const runs = useRunEvents();
  useEffect(() => {
    if (!shot) return;
    const leaving = new AbortController();
    const source = new EventSource('/api/events');
    // The line is open, for the first time or again: what happened before is fetched.
    source.addEventListener('ready', () => {
      useShot.setState({ connected: true });
      takeLogbook(shot, leaving.signal).catch(() => {});
      draftChanged();
      runs.changed(null, true);
    });
    source.onerror = () => useShot.setState({ connected: false });
    source.onmessage = (message) => {
      const event = eventSchema.safeParse(JSON.parse(message.data)).data;
      if (event?.shot !== shot) return;
      if (event.type === 'trial') takeTrial(event.id).catch(() => {});
      else if (event.type === 'progress') useTrials.getState().progress(event.id, event);
      else if (event.type === 'denoising')
        useTrials
          .getState()
          .denoising(event.id, { fraction: event.fraction, leftMs: event.leftMs, preview: event.preview });
      else if (event.type === 'baseline') useShot.setState({ baseline: event.trial });
      else if (event.type === 'run') runs.changed(event.id, event.frames);
      else if (event.type === 'frame') runs.frame(event.run, event.row);
      // What this tab saved it has already.
      else if (event.by !== TAB) draftChanged();
    };
    return () => {
      leaving.abort();
      source.close();
    };
  }, [shot, draftChanged, runs]);
}

/** What was last looked at, in another browser too, where the address names no shot; undefined until that is known. */
function useLastDesk(wanted: string | null): LastDesk | null | undefined {
  const [fresh] = useState(() => typeof window !== 'undefined' && isNewHere());
  const last = useQuery({ queryKey: ['last desk'], queryFn: api.lastDesk, enabled: wanted === null, retry: 1 });
  const desk = wanted !== null || last.isError ? null : last.data?.desk;
  useEffect(() => {
    if (desk && fresh) takeDesk(desk);
  }, [desk, fresh]);
  return desk;
}

/** Opens the shot that the address names, the one that was last open, or the first, and everything under it. */
export function OpenShot({ children, waiting }: { children: ReactNode; waiting: (fault: string | null) => ReactNode }) {
  const client = useFilmWorker();
  const queries = useQueryClient();
  const shots = useQuery({ queryKey: ['shots'], queryFn: api.shots, retry: 5 });
  const [wanted] = useState(() =>
    typeof window === 'undefined' ? null : new URLSearchParams(window.location.search).get('shot'),
  );
  const all = shots.data?.shots;
  const elsewhere = useLastDesk(wanted);
  const name = wanted ?? elsewhere?.shot;
  const id = elsewhere === undefined ? undefined : (all?.find((s) => s.name === name) ?? all?.[0])?.id;
  const shot = useQuery({
    queryKey: ['shot', id],
    queryFn: () => api.shot(id!),
    enabled: id !== undefined,
    retry: 5,
  });
  useEffect(() => {
    if (shot.data) useShot.setState({ ...shot.data.shot, revision: shot.data.revision.number });
  }, [shot.data]);
  useEvents(
    id,
    useCallback(() => void queries.invalidateQueries({ queryKey: ['shot'] }), [queries]),
  );
  useDraft(id, shot.data);
  const loaded = useScene((s) => s.document !== null);
  const named = useShot((s) => s.id !== '');
  if (!client || !loaded || !named) return waiting((shots.error ?? shot.error)?.message ?? null);
  return (
    <ClientContext value={client}>
      <FilmLink />
      {children}
    </ClientContext>
  );
}
