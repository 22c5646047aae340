import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { toast } from 'sonner';
import type { Balance } from '@/core/film';
import type { Cures } from '@/render/cures/try-cures';
import type { Patient } from '@/render/diagnosis/diagnose';
import type { Goal } from '@/render/proposal';
import type { SequenceFrame } from '@/render/sequence';
import type { Answer } from '@/render/tuning';
import type { FilmClient } from '../picture/film-client';
import { usePatient } from '../setup/use-patient';
import { api } from '../state/api';
import { type Asked, answerFor, curesFor, sequenceFor, useCure } from '../state/cure-store';
import { useDesk } from '../state/desk-store';
import { useSession } from '../state/session';

/** Threads that a trial is traced on: those of this machine, where the worker runs as well. */
export const threads = () => navigator.hardwareConcurrency || 2;

/** Asks the film worker for something long, which shows its steps and can be stopped; null when it was stopped or failed. */
export async function askLong<T>(
  client: FilmClient,
  message: Extract<Parameters<FilmClient['measure']>[0], { what: Asked }>,
): Promise<T | null> {
  const abort = new AbortController();
  const startedAt = performance.now();
  const { what } = message;
  const first = { what, done: 0, of: 1, words: 'waiting for the picture', startedAt };
  useCure.setState({ step: first, stop: () => abort.abort() });
  try {
    return await client.measure<T>(message, {
      signal: abort.signal,
      onStep: (s) => useCure.setState({ step: { what, done: s.done, of: s.of, words: s.words, startedAt } }),
    });
  } catch (error) {
    if ((error as Error).message !== 'stopped') toast.error((error as Error).message);
    return null;
  } finally {
    useCure.setState({ step: null, stop: null });
  }
}

const NONE: Balance[] = [];

/** The moods that are kept for A. */
export function useMoods(): Balance[] {
  const { trialA } = useSession();
  const moods = useQuery({
    queryKey: ['moods', trialA?.id],
    queryFn: () => api.moods(trialA!.id),
    enabled: trialA !== null,
  }).data?.moods;
  return useMemo(() => moods?.map((m) => m.balance) ?? NONE, [moods]);
}

/** The moods that the noise target is for; none when it is for the picture as it is. */
function useTargetMoods(): Balance[] {
  const wanted = useDesk((s) => s.targetMoods);
  const moods = useMoods();
  return wanted ? moods : NONE;
}

/** Asks for pilots and a proposal. */
export function useSearch() {
  const { client } = useSession();
  const moods = useTargetMoods();
  const patient = usePatient();
  const keep = (answer: Answer | null, goal: Goal | null, of: Patient) => {
    const kept = answerFor(useCure.getState(), of)?.proposal ?? null;
    if (answer) useCure.setState({ answer: goal ? answer : { ...answer, proposal: kept }, of });
  };
  const ask = async (goal: Goal | null) => {
    if (!patient || useCure.getState().step) return;
    const message = {
      type: 'measure',
      what: 'tune',
      patient,
      goal,
      threads: threads(),
      ifKnown: false,
      moods,
    } as const;
    keep(await askLong<Answer>(client, message), goal, patient);
  };
  /** What pilots that have been run say of the recipe as it stands now. */
  const askKnown = async () => {
    if (!patient || useCure.getState().step) return;
    const message = {
      type: 'measure',
      what: 'tune',
      patient,
      goal: null,
      threads: threads(),
      ifKnown: true,
      moods,
    } as const;
    keep(await client.measure<Answer | null>(message).catch(() => null), null, patient);
  };
  return { ask, askKnown, answer: answerFor(useCure(), patient) };
}

/** Tries cures on the picture or region as it stands. */
export function useTriedCures() {
  const { client } = useSession();
  const patient = usePatient();
  const ask = async () => {
    if (!patient || useCure.getState().step) return;
    const cures = await askLong<Cures>(client, { type: 'measure', what: 'cures', patient, threads: threads() });
    if (cures) useCure.setState({ cures, curesOf: patient });
  };
  return { ask, cures: curesFor(useCure(), patient) };
}

/** Measures the first, middle and last frame of the shot. */
export function useSequence() {
  const { client } = useSession();
  const patient = usePatient();
  const ask = async () => {
    if (!patient || useCure.getState().step) return;
    const message = { type: 'measure', what: 'sequence', patient, threads: threads() } as const;
    const sequence = await askLong<SequenceFrame[]>(client, message);
    if (sequence) useCure.setState({ sequence, sequenceOf: patient });
  };
  return { ask, frames: sequenceFor(useCure(), patient) };
}
