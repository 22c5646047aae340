'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { exposureScale } from '@/core/image';
import { type Camera, type Content, lightGroups, type SceneDocument, stillAt } from '@/core/scene';
import type { LiveStatus } from '@/render/film-protocol';
import type { Prediction } from '@/render/proposal';
import { FilmClient } from '../picture/film-client';
import { ApiError, api } from './api';
import { predictionFor } from './cure-store';
import { type Pick, useDesk } from './desk-store';
import { saveDraftNow, TAB, useDraft } from './draft';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';
import { filmGroups, sourceOf, viewsOf } from './showing';
import { finished, running, type ShotData, type Trial } from './types';

export interface Session {
  data: ShotData;
  /** Names of all shots, and those that have been taken out of the list. */
  shots: string[];
  removedShots: { id: string; name: string }[];
  client: FilmClient;
  /** Whether the scene is loaded in the film worker. */
  ready: boolean;
  status: LiveStatus | null;
  /** Light groups of what A shows: a film's own, or the scene's. */
  groups: string[];
  trialA: Trial | null;
  trialB: Trial | null;
  baseline: Trial | null;
  sceneExposure: number;
  /** The scene as it is being edited, the camera looked through, and the frame. */
  document: SceneDocument;
  camera: Camera;
  frame: number;
  /** Whether a trial is being timed: nothing else may take the machine's time then. */
  timed: boolean;
  /** False while events do not arrive: the server or database is away. */
  connected: boolean;
  /** Logs the recipe as it stands, by a title and with what it is predicted to come to. */
  logTrial: (more?: { title?: string; predicted?: Prediction }) => Promise<void>;
  refresh: () => Promise<void>;
}

const NONE: never[] = [];

const Context = createContext<Session | null>(null);

export function useSession(): Session {
  const session = useContext(Context);
  if (!session) throw new Error('no session above this component');
  return session;
}

/** Says a failure of an action in words. */
export function tell(error: unknown): void {
  toast.error(error instanceof ApiError && error.path ? `${error.path}: ${error.message}` : (error as Error).message);
}

function useEvents(
  shot: string | undefined,
  refresh: () => void,
  onProgress: (id: string, fraction: number, leftMs: number | null, preview: number) => void,
): boolean {
  const [connected, setConnected] = useState(true);
  useEffect(() => {
    if (!shot) return;
    const source = new EventSource('/api/events');
    source.addEventListener('ready', () => {
      setConnected(true);
      refresh();
    });
    source.onerror = () => setConnected(false);
    source.onmessage = (event) => {
      const e = JSON.parse(event.data);
      if (e.shot !== shot) return;
      // What this tab saved it has already.
      if (e.type === 'draft' && e.by === TAB) return;
      if (e.type === 'progress') onProgress(e.id, e.fraction, e.leftMs, e.preview);
      else refresh();
    };
    return () => source.close();
  }, [shot, refresh, onProgress]);
  return connected;
}

export function SessionProvider({
  children,
  waiting,
}: {
  children: ReactNode;
  waiting: (fault: string | null) => ReactNode;
}) {
  const queries = useQueryClient();
  const shots = useQuery({ queryKey: ['shots'], queryFn: api.shots, retry: 5 });
  const [wanted] = useState(() =>
    typeof window === 'undefined' ? null : new URLSearchParams(window.location.search).get('shot'),
  );
  const all = shots.data?.shots;
  const shotId = (all?.find((s) => s.name === wanted) ?? all?.[0])?.id;
  const shot = useQuery({
    queryKey: ['shot', shotId],
    queryFn: () => api.shot(shotId!),
    enabled: shotId !== undefined,
    retry: 5,
  });
  const refresh = useCallback(() => queries.invalidateQueries({ queryKey: ['shot'] }), [queries]);
  const [progress, setProgress] = useState<
    Record<string, { fraction: number; leftMs: number | null; preview: number }>
  >({});
  const onProgress = useCallback((id: string, fraction: number, leftMs: number | null, preview: number) => {
    setProgress((p) => ({ ...p, [id]: { fraction, leftMs, preview } }));
  }, []);
  const connected = useEvents(shotId, refresh, onProgress);
  const [client, setClient] = useState<FilmClient | null>(null);
  const [status, setStatus] = useState<LiveStatus | null>(null);
  useEffect(() => {
    const made = new FilmClient();
    made.on({ status: setStatus, fault: (message) => toast.error(message) });
    setClient(made);
    return () => made.close();
  }, []);

  useEffect(() => {
    if (!client) return;
    const half = Math.max(1, Math.floor((navigator.hardwareConcurrency || 2) / 2));
    client.send({ type: 'open', threads: half });
  }, [client]);
  useDraft(shotId, shot.data);
  const loaded = useScene((s) => s.document !== null);

  const data = useMemo(() => {
    if (!shot.data) return null;
    const trials = shot.data.trials.map((t) =>
      running(t) && progress[t.id] ? { ...t, ...progress[t.id], leftMs: progress[t.id].leftMs } : t,
    );
    return { ...shot.data, trials };
  }, [shot.data, progress]);
  if (!client || !data || !loaded) return waiting((shots.error ?? shot.error)?.message ?? null);
  return (
    <Opened
      client={client}
      shots={all?.map((s) => s.name) ?? NONE}
      removedShots={shots.data?.removed ?? NONE}
      data={data}
      status={status}
      connected={connected}
      refresh={refresh}
      progress={progress}
    >
      {children}
    </Opened>
  );
}

/** Milliseconds between edits that the live picture is told of. */
const LIVE_EVERY_MS = 60;

/** Runs the last of what comes in, at most once in `everyMs` and at least that often while more comes. */
function usePaced(everyMs: number): (run: () => void) => () => void {
  const state = useRef<{ run: (() => void) | null; timer: number | null }>({ run: null, timer: null });
  return useCallback(
    (run) => {
      const s = state.current;
      s.run = run;
      s.timer ??= window.setTimeout(() => {
        s.timer = null;
        s.run?.();
      }, everyMs);
      return () => {
        if (s.run === run) s.run = null;
      };
    },
    [everyMs],
  );
}

/** The picture that a slot shows of the scene's contents: one by name, or a plate's still at the frame. */
function referenceOf(document: SceneDocument, pick: Pick | null, frame: number): Content | null {
  if (pick?.kind !== 'reference') return null;
  const plate = document.plates.find((p) => p.name === pick.name);
  const name = plate ? stillAt(plate, frame) : pick.name;
  return document.contents.find((c) => c.name === name) ?? null;
}

/** The document with only one light on. */
function soloed(document: SceneDocument, solo: string | null): SceneDocument {
  if (solo === null) return document;
  const { environment } = document;
  const off = environment && { ...environment, on: environment.on && solo === 'environment' };
  return {
    ...document,
    lights: document.lights.map((l) => (l.name === solo ? l : { ...l, on: false })),
    environment: off?.kind === 'sky' ? { ...off, sun: { ...off.sun, on: off.sun.on && solo === 'sun' } } : off,
    materials: document.materials.map((m) =>
      m.name === solo || m.emission_luminance === 0 ? m : { ...m, light: { ...m.light, on: false } },
    ),
  };
}

interface OpenedProps {
  client: FilmClient;
  shots: string[];
  removedShots: { id: string; name: string }[];
  data: ShotData;
  status: LiveStatus | null;
  connected: boolean;
  refresh: () => Promise<void>;
  progress: Record<string, { preview: number }>;
  children: ReactNode;
}

function Opened({ client, shots, removedShots, data, status, connected, refresh, progress, children }: OpenedProps) {
  const recipe = useRecipe((s) => s.recipe);
  const desk = useDesk();
  const ready = status !== null;
  const document = useScene((s) => s.document)!;
  const camera = document.cameras.find((c) => c.name === desk.camera) ?? document.cameras[0];
  const { first, last } = document.frames;
  const frame = Math.min(last, Math.max(first, desk.frame ?? first));
  const sceneExposure = exposureScale(camera.exposure);
  const find = (pick: typeof desk.b) =>
    pick?.kind === 'trial' ? (data.trials.find((t) => t.id === pick.id) ?? null) : null;
  const trialA = find(desk.a);
  const trialB = find(desk.b);
  const groups = useMemo(() => filmGroups(trialA, lightGroups(document)), [trialA, document]);
  const baseline = data.trials.find((t) => t.id === data.shot.baseline) ?? null;

  // A slot whose trial has left the logbook shows the live picture again; one just logged may not be listed yet.
  const expected = useRef<string | null>(null);
  useEffect(() => {
    if (data.trials.some((t) => t.id === expected.current)) expected.current = null;
    const gone = (pick: typeof desk.b) =>
      pick?.kind === 'trial' && pick.id !== expected.current && !data.trials.some((t) => t.id === pick.id);
    if (gone(desk.a)) desk.set({ a: { kind: 'live' } });
    if (gone(desk.b)) desk.set({ b: null });
  }, [desk, data.trials]);

  const soon = usePaced(LIVE_EVERY_MS);
  const shown = useMemo(() => soloed(document, desk.solo), [document, desk.solo]);
  useEffect(() => {
    if (!ready || !recipe) return;
    if (!desk.live) {
      client.send({ type: 'halt' });
      return;
    }
    return soon(() => client.send({ type: 'live', document: shown, recipe, camera: camera.name, frame }));
  }, [client, ready, recipe, shown, camera.name, frame, desk.live, soon]);

  const timed = data.trials.some((t) => t.state === 'rendering' || t.state === 'storing');
  useEffect(() => {
    if (ready) client.send({ type: 'pause', on: timed });
  }, [client, ready, timed]);

  const preview = (t: Trial | null) => (t ? (progress[t.id]?.preview ?? 0) : 0);
  const sourceA = sourceOf(desk.a, trialA, preview(trialA), groups, referenceOf(document, desk.a, frame));
  const sourceB = sourceOf(desk.b, trialB, preview(trialB), groups, referenceOf(document, desk.b, frame));
  const keyA = JSON.stringify(sourceA);
  const keyB = JSON.stringify(sourceB);
  useEffect(() => client.send({ type: 'show', slot: 'A', source: JSON.parse(keyA) }), [client, keyA]);
  useEffect(() => client.send({ type: 'show', slot: 'B', source: JSON.parse(keyB) }), [client, keyB]);
  const views = JSON.stringify(viewsOf(desk, groups, trialA, trialB, recipe !== null && recipe.film.ledger !== 'off'));
  const exposure = sceneExposure * 2 ** desk.viewStops;
  const look = JSON.stringify(document.look);
  useEffect(() => {
    const { a, b } = JSON.parse(views);
    client.send({ type: 'view', a, b, exposure, sceneExposure, look: JSON.parse(look) });
  }, [client, views, exposure, sceneExposure, look]);

  const logTrial = useCallback<Session['logTrial']>(
    async (more) => {
      const current = useRecipe.getState().recipe;
      if (!current) return;
      const latest = data.trials.find(finished);
      const parent = trialA && finished(trialA) ? trialA : latest;
      try {
        // The trial is of what is on the screen: the draft goes first.
        await saveDraftNow(data.shot.id);
        const { trial } = await api.logTrial({
          shot: data.shot.id,
          camera: camera.name,
          frame: first === last ? null : frame,
          recipe: current,
          parent: parent?.id ?? null,
          title: more?.title,
          predicted: more?.predicted ?? predictionFor({ document, recipe: current, camera: camera.name, frame }),
        });
        if (!data.shot.baseline) await api.setBaseline(data.shot.id, trial.id);
        expected.current = trial.id;
        void refresh();
        useDesk.getState().set({
          a: { kind: 'trial', id: trial.id },
          b: parent ? { kind: 'trial', id: parent.id } : null,
          overlay: 'none',
        });
      } catch (error) {
        tell(error);
      }
    },
    [data, document, camera.name, first, last, frame, trialA, refresh],
  );

  const session = useMemo<Session>(
    () => ({
      data,
      shots,
      removedShots,
      client,
      ready,
      status,
      groups,
      trialA,
      trialB,
      baseline,
      sceneExposure,
      document,
      camera,
      frame,
      timed,
      connected,
      logTrial,
      refresh,
    }),
    [
      data,
      shots,
      removedShots,
      client,
      ready,
      status,
      groups,
      trialA,
      trialB,
      baseline,
      sceneExposure,
      document,
      camera,
      frame,
      timed,
      connected,
      logTrial,
      refresh,
    ],
  );
  return <Context value={session}>{children}</Context>;
}
