import { useMemo } from 'react';
import { create } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import { type DenoisedLine, isUnderWay } from '@/contract/denoised';
import { finished, running, type TrialLine, timed } from '@/contract/trial';

/** A trial in the page, with the number of its picture so far while it is under way. */
export interface ListedTrial extends TrialLine {
  preview: number;
}

interface TrialsState {
  /** Trials of the logbook, and frames of runs that are looked at. */
  byId: ReadonlyMap<string, ListedTrial>;
  /** Those of the logbook, newest first. Another array only when a trial has come or gone. */
  order: readonly string[];
  /** How many the shot has in all; more than are here while pages are still on their way. */
  total: number;
  /** Whether all pages have come, so that what is not here is nowhere. */
  complete: boolean;
  /** Takes lines in: new ones, and others' new states. */
  put: (lines: readonly TrialLine[], total?: number) => void;
  drop: (id: string) => void;
  progress: (id: string, change: { fraction: number; leftMs: number | null; preview: number }) => void;
  /** What has become of the denoising of one. */
  denoising: (
    id: string,
    change: Partial<Pick<DenoisedLine, 'fraction' | 'leftMs' | 'strengths' | 'residual'>> & { preview?: number },
  ) => void;
}

/** Trials whose strengths of denoising the server has yet to take: what it tells of them meanwhile is of before. */
export const strengthsUnderWay = new Set<string>();

const byNumber = (byId: ReadonlyMap<string, ListedTrial>): string[] =>
  [...byId.values()]
    .filter((t) => t.run === null)
    .sort((a, b) => b.number - a.number)
    .map((t) => t.id);

/** The shot's logbook, one entry a trial. What happens to one trial changes that entry and no other. */
export const useTrials = create<TrialsState>((set, get) => ({
  byId: new Map(),
  order: [],
  total: 0,
  complete: false,
  put: (lines, total) => {
    const { byId, order } = get();
    const next = new Map(byId);
    for (const line of lines) {
      const own = byId.get(line.id);
      const taken = strengthsUnderWay.has(line.id) ? own?.denoised?.strengths : undefined;
      const denoised = line.denoised && taken ? { ...line.denoised, strengths: taken } : line.denoised;
      next.set(line.id, { ...line, denoised, preview: own?.preview ?? 0 });
    }
    const added = lines.filter((l) => l.run === null && !byId.has(l.id)).length;
    set({
      byId: next,
      order: added > 0 ? byNumber(next) : order,
      total: total ?? get().total + added,
    });
  },
  drop: (id) => {
    const { byId, total } = get();
    if (!byId.has(id)) return;
    const next = new Map(byId);
    next.delete(id);
    set({ byId: next, order: byNumber(next), total: byId.get(id)!.run ? total : total - 1 });
  },
  progress: (id, change) => {
    const trial = get().byId.get(id);
    if (trial && running(trial)) set({ byId: new Map(get().byId).set(id, { ...trial, ...change }) });
  },
  denoising: (id, { preview, ...change }) => {
    const trial = get().byId.get(id);
    if (!trial?.denoised) return;
    const denoised = { ...trial.denoised, ...change };
    set({ byId: new Map(get().byId).set(id, { ...trial, denoised, preview: preview ?? trial.preview }) });
  },
}));

/** A trial by its identifier; null when it is not in the logbook. */
export const useTrial = (id: string | null): ListedTrial | null =>
  useTrials((s) => (id === null ? null : (s.byId.get(id) ?? null)));

/** All trials that are here, newest first. */
export const trialsOf = ({ order, byId }: Pick<TrialsState, 'order' | 'byId'>): ListedTrial[] =>
  order.map((id) => byId.get(id)!);

/** All trials that are here, for what shows all of them: another list with each change of any. */
export function useAllTrials(): ListedTrial[] {
  const order = useTrials((s) => s.order);
  const byId = useTrials((s) => s.byId);
  return useMemo(() => trialsOf({ order, byId }), [order, byId]);
}

/** Finished trials, newest first: another list only when one of them has changed. */
export const useFinished = (): ListedTrial[] => useTrials(useShallow((s) => trialsOf(s).filter(finished)));

/** Trials under way that were predicted to come to something. */
export function useForetold(): ListedTrial[] {
  const ids = useTrials(useShallow((s) => s.order.filter((id) => isForetold(s.byId.get(id)!))));
  return useMemo(() => ids.map((id) => useTrials.getState().byId.get(id)!), [ids]);
}
const isForetold = (t: TrialLine) => t.predicted !== null && !finished(t);

const some = (byId: ReadonlyMap<string, ListedTrial>, test: (t: TrialLine) => boolean): boolean => {
  for (const t of byId.values()) if (test(t)) return true;
  return false;
};

const timedId = ({ byId, order }: TrialsState) => order.find((id) => timed(byId.get(id)!)) ?? null;
/** The trial that is being timed, as it goes on. */
export const useTimedTrial = (): ListedTrial | null => useTrial(useTrials(timedId));
/** Whether a trial is being timed: nothing else may take the machine's time then. */
export const useTimed = (): boolean => useTrials((s) => some(s.byId, timed));
/** Whether a trial is being rendered or waits for it. */
export const useBusy = (): boolean => useTrials((s) => some(s.byId, running));
/** A trial whose film is being denoised, or waits for it. */
export const useDenoising = (): ListedTrial | null =>
  useTrial(useTrials(({ byId, order }) => order.find((id) => isUnderWay(byId.get(id)!.denoised)) ?? null));
