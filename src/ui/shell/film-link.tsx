'use client';

import { useCallback, useEffect, useMemo, useRef } from 'react';
import { finished } from '@/contract/trial';
import { LAYER } from '@/core/film';
import { MASKED_BY } from '@/core/outputs';
import { NOT_DENOISED } from '@/core/recipe';
import type { SceneDocument } from '@/core/scene';
import { useClient } from '../state/client';
import { useDesk } from '../state/desk-store';
import { useKeptDesk } from '../state/last-desk';
import { useReady } from '../state/live-store';
import { useMasking } from '../state/masks';
import { useFactors } from '../state/mixing';
import { pickedOutput, useOutputs, writtenLayers } from '../state/outputs-store';
import { useRecipe } from '../state/recipe-store';
import { useRoles } from '../state/roles';
import { useCamera, useDocument, useFrame, useKeptRecipe, useSceneExposure, useSceneGroups } from '../state/scene-now';
import { viewsOf } from '../state/showing';
import { useGroups, useMade, useMeanwhile, useSlotTrial, useWhole } from '../state/slots';
import { referenceOf, sourceOf } from '../state/sources';
import { useStacked } from '../state/stacking';
import { useDenoising, useTimed, useTrials } from '../state/trials-store';
import { useRole } from '../state/variants';
import { useIsWide } from '../state/wide';
import { viewNamed } from '../views/registry';

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

/** Tells the live picture what to render, and rests it while a trial is timed. */
function useLivePicture(): void {
  const client = useClient();
  const ready = useReady();
  const document = useDocument();
  const [group] = useSceneGroups();
  // A layer that is looked at in Split is there before anyone has chosen it, and so are the light groups that Balance mixes.
  const looked = useDesk((s) =>
    s.view === 'split' ? s.layer : s.view === 'balance' && group ? LAYER.group(group) : 'beauty',
  );
  const choosing = useRole() !== null;
  const recipe = useKeptRecipe(choosing ? MASKED_BY : looked);
  const camera = useCamera().name;
  const frame = useFrame();
  const live = useDesk((s) => s.live);
  const solo = useDesk((s) => s.solo);
  const soon = usePaced(LIVE_EVERY_MS);
  const shown = useMemo(() => soloed(document, solo), [document, solo]);
  useEffect(() => {
    if (!ready || !recipe) return;
    if (!live) {
      client.send({ type: 'halt' });
      return;
    }
    // Denoising comes after a trial: its settings make no other picture.
    const own = { ...recipe, denoise: NOT_DENOISED };
    return soon(() => client.send({ type: 'live', document: shown, recipe: own, camera, frame }));
  }, [client, ready, recipe, shown, camera, frame, live, soon]);
  const timed = useTimed();
  // One that waits its turn takes no time of the machine.
  const denoising = (useDenoising()?.denoised?.state ?? 'queued') !== 'queued';
  useEffect(() => {
    if (ready) client.send({ type: 'pause', on: timed || denoising });
  }, [client, ready, timed, denoising]);
}

/** A slot whose trial is not in the logbook, or has left it, shows the live picture again. */
export function useAbsentTrials(): void {
  const byId = useTrials((s) => s.byId);
  const complete = useTrials((s) => s.complete);
  const a = useDesk((s) => s.a);
  const b = useDesk((s) => s.b);
  const seen = useRef(new Set<string>());
  useEffect(() => {
    for (const id of byId.keys()) seen.current.add(id);
    const { set } = useDesk.getState();
    const gone = (pick: typeof b) =>
      pick?.kind === 'trial' && !byId.has(pick.id) && (complete || seen.current.has(pick.id));
    if (gone(a)) set({ a: { kind: 'live' } });
    if (gone(b)) set({ b: null });
  }, [byId, complete, a, b]);
}

/** Tells what A and B are, and how they are looked at. */
function useSlots(): void {
  const client = useClient();
  const desk = useDesk();
  const document = useDocument();
  const frame = useFrame();
  const [a, b] = [useSlotTrial('A'), useSlotTrial('B')];
  const [madeA, madeB] = [useMade(a), useMade(b)];
  const [wholeA, wholeB] = [useWhole(a && finished(a) ? a : null), useWhole(b && finished(b) ? b : null)];
  const meanwhile = useMeanwhile();
  const sourceA = JSON.stringify(
    meanwhile
      ? sourceOf({ kind: 'trial', id: meanwhile.id }, meanwhile, null)
      : sourceOf(desk.a, a, wholeA, referenceOf(document, desk.a, frame), madeA),
  );
  const sourceB = JSON.stringify(sourceOf(desk.b, b, wholeB, referenceOf(document, desk.b, frame), madeB));
  useEffect(() => client.send({ type: 'show', slot: 'A', source: JSON.parse(sourceA) }), [client, sourceA]);
  useEffect(() => client.send({ type: 'show', slot: 'B', source: JSON.parse(sourceB) }), [client, sourceB]);
  const groups = useGroups();
  const ledger = useRecipe((s) => s.recipe !== null && s.recipe.film.ledger !== 'off');
  const masking = useMasking(desk.layer);
  const scope = useRecipe((s) => s.recipe?.scope);
  const roles = useRoles(scope);
  const written = useOutputs(writtenLayers);
  const reachMetres = useOutputs((s) => pickedOutput(s)?.reachMetres ?? null);
  const isMixed = desk.view === 'balance';
  const mixes = { a: useFactors('A', isMixed), b: useFactors('B', isMixed) };
  const stacked = useStacked();
  const stack =
    stacked && typeof stacked !== 'string' && (desk.view === 'comp' || desk.throughStack) ? stacked.over : null;
  const wide = useIsWide();
  const looked = { a: wholeA, b: wholeB, masking, roles, mixes, stack };
  const looking = { desk, groups, ledger, written, reachMetres, wide, ...looked };
  const views = JSON.stringify(viewsOf(looking, viewNamed(desk.view).shows));
  const sceneExposure = useSceneExposure();
  const exposure = sceneExposure * 2 ** desk.viewStops;
  const look = JSON.stringify(document.look);
  const { smooth } = desk;
  useEffect(() => {
    client.send({ type: 'view', ...JSON.parse(views), exposure, sceneExposure, look: JSON.parse(look), smooth });
  }, [client, views, exposure, sceneExposure, look, smooth]);
}

/** Keeps the film worker told of what the page shows. Draws nothing. */
export function FilmLink() {
  useLivePicture();
  useAbsentTrials();
  useSlots();
  useKeptDesk();
  return null;
}
