import { queryOptions, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { type Denoised, isFiltered } from '@/contract/denoised';
import { finished, type Trial } from '@/contract/trial';
import type { Slot } from '@/render/page/told';
import type { FilmOf } from '@/render/views/film-of';
import { api } from './api';
import { type Pick as Picked, useDesk } from './desk-store';
import { useLive } from './live-store';
import { useSceneGroups } from './scene-now';
import { useShot } from './shot-store';
import { takenOf } from './sources';
import { type ListedTrial, useTimedTrial, useTrial } from './trials-store';

const idOf = (pick: Picked | null) => (pick?.kind === 'trial' ? pick.id : null);

/** The trial in a slot; null where it shows something else. */
export const useSlotTrial = (slot: Slot): ListedTrial | null =>
  useTrial(useDesk((s) => idOf(slot === 'A' ? s.a : s.b)));

/** The trial whose picture stands in for the live one, which waits for it and has nothing to show; null when it has. */
export function useMeanwhile(): ListedTrial | null {
  const trial = useTimedTrial();
  const empty = useLive((s) => s.status !== null && s.status.samples === 0);
  const live = useDesk((s) => s.a.kind === 'live');
  return empty && live ? trial : null;
}

/** The trial that others are compared with. */
export const useBaseline = (): ListedTrial | null => useTrial(useShot((s) => s.baseline));

/** How a whole trial is asked for. */
export const wholeTrial = ({ id, state }: Pick<Trial, 'id' | 'state'>) =>
  queryOptions({
    queryKey: ['trial', id, state],
    queryFn: () => api.trial(id),
    staleTime: Number.POSITIVE_INFINITY,
  });

const NO_TRIAL = { id: '', state: 'queued' } as const;

/** Of a trial what the logbook leaves out: its recipe, figures and film. Null until it is there. */
export function useWhole(trial: { id: string; state: Trial['state'] } | null): Trial | null {
  const { data } = useQuery({ ...wholeTrial(trial ?? NO_TRIAL), enabled: trial !== null });
  return data?.trial ?? null;
}

/** The trial in a slot, whole. */
export const useWholeSlot = (slot: Slot): Trial | null => useWhole(useSlotTrial(slot));

/** What denoising made of a trial's film, whole; null until it is there. */
export function useMade(trial: ListedTrial | null): Denoised | null {
  const line = trial?.denoised ?? null;
  const { data } = useQuery({
    queryKey: ['denoised', trial?.id, line?.state, line?.seconds],
    queryFn: () => api.denoised(trial!.id),
    enabled: isFiltered(line),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before, query) => (query?.queryKey[1] === trial?.id ? before : undefined),
  });
  const made = data?.denoised ?? null;
  return isFiltered(line) && made ? { ...made, ...line! } : null;
}

/** Whether a slot shows its trial as denoising left it. */
export const useIsDenoised = (slot: Slot): boolean =>
  useDesk((s) => {
    const pick = slot === 'A' ? s.a : s.b;
    return pick?.kind === 'trial' && pick.denoised === true;
  });

/** The film of a slot's trial as it is looked at, for questions about it; null until it is there. */
export function useSlotFilm(slot: Slot): FilmOf | null {
  const trial = useSlotTrial(slot);
  const looked = useIsDenoised(slot);
  const made = useMade(looked ? trial : null);
  return useMemo(() => {
    if (!trial || !finished(trial)) return null;
    const { id, film } = trial;
    if (!looked || !isFiltered(trial.denoised)) return { id, film, denoised: null };
    return made && { id, film, denoised: takenOf(made) };
  }, [trial, looked, made]);
}

/** Light groups of what A shows: its film's own, which the scene may have left behind since, or the scene's. */
export function useGroups(): string[] {
  const own = useSceneGroups();
  const a = useWholeSlot('A');
  return (a && finished(a) && a.spec?.groups) || own;
}
