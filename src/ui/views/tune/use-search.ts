import { useMemo } from 'react';
import type { Factors } from '@/core/film';
import type { Goal } from '@/render/advice/proposal';
import type { Answer } from '@/render/advice/tuning';
import type { FilmClient } from '@/render/page/client';
import type { Answered, Asked as AskedOf } from '@/render/questions';
import { useClient } from '../../state/client';
import { type Asked, answerFor, cleanFor, curesFor, sequenceFor, useAnswer, useCure } from '../../state/cure-store';
import { useDesk } from '../../state/desk-store';
import { useMoodFactors, useOwnColors } from '../../state/mixing';
import { patientNow, useDocument, useFrame, usePatient, useSceneGroups } from '../../state/scene-now';
import { tell } from '../../state/tell';
import { threads } from '../../state/threads';

/** Asks the film worker for something long, which shows its steps and can be stopped; null when it was stopped or failed. */
export async function askLong<K extends Asked>(
  client: FilmClient,
  what: K,
  asked: AskedOf<K>,
): Promise<Answered<K> | null> {
  const abort = new AbortController();
  const startedAt = performance.now();
  const first = { what, done: 0, of: 1, words: 'waiting for the picture', startedAt };
  useCure.setState({ step: first, stop: () => abort.abort() });
  try {
    return await client.ask(what, asked, {
      signal: abort.signal,
      onStep: ({ done, of, words }) => useCure.setState({ step: { what, done, of, words, startedAt } }),
    });
  } catch (error) {
    if ((error as Error).message !== 'stopped') tell(error);
    return null;
  } finally {
    useCure.setState({ step: null, stop: null });
  }
}

const NONE: Factors[] = [];

/** What the moods that the noise target is for do to the light groups of the scene; none when it is for the picture as it is. */
function useTargetMoods(): Factors[] {
  const wanted = useDesk((s) => s.targetMood);
  const document = useDocument();
  const moods = useMoodFactors(useSceneGroups(), useOwnColors(wanted === null ? null : document), useFrame());
  return useMemo(
    () => (wanted === null ? NONE : moods.filter((m) => wanted === '' || m.id === wanted).map((m) => m.factors)),
    [moods, wanted],
  );
}

/** Asks for pilots and a proposal. */
export function useSearch() {
  const client = useClient();
  const moods = useTargetMoods();
  const answer = useAnswer();
  const keep = (found: Answer | null, goal: Goal | null, of: NonNullable<ReturnType<typeof patientNow>>) => {
    const kept = answerFor(useCure.getState(), of)?.proposal ?? null;
    if (found) useCure.setState({ answer: goal ? found : { ...found, proposal: kept }, of });
  };
  const ask = async (goal: Goal | null) => {
    const patient = patientNow();
    if (!patient || useCure.getState().step) return;
    const asked = { patient, goal, threads: threads(), ifKnown: false, moods };
    keep(await askLong(client, 'tune', asked), goal, patient);
  };
  /** What pilots that have been run say of the recipe as it stands now. */
  const askKnown = async () => {
    const patient = patientNow();
    if (!patient || useCure.getState().step) return;
    const asked = { patient, goal: null, threads: threads(), ifKnown: true, moods };
    keep(await client.ask('tune', asked).catch(() => null), null, patient);
  };
  return { ask, askKnown, answer };
}

/** Looks for the least samples that are clean enough when they are denoised. */
export function useClean() {
  const client = useClient();
  const patient = usePatient();
  const clean = useCure((s) => s.clean);
  const cleanOf = useCure((s) => s.cleanOf);
  const ask = async (target: number) => {
    if (!patient || useCure.getState().step) return;
    const found = await askLong(client, 'clean', { patient, target, threads: threads() });
    if (found) useCure.setState({ clean: found, cleanOf: patient });
  };
  return { ask, advice: cleanFor({ clean, cleanOf }, patient) };
}

/** Tries cures on the picture or region as it stands. */
export function useTriedCures() {
  const client = useClient();
  const patient = usePatient();
  const cures = useCure((s) => s.cures);
  const curesOf = useCure((s) => s.curesOf);
  const ask = async () => {
    if (!patient || useCure.getState().step) return;
    const found = await askLong(client, 'cures', { patient, threads: threads() });
    if (found) useCure.setState({ cures: found, curesOf: patient });
  };
  return { ask, cures: curesFor({ cures, curesOf }, patient) };
}

/** Measures the first, middle and last frame of the shot. */
export function useSequence() {
  const client = useClient();
  const patient = usePatient();
  const sequence = useCure((s) => s.sequence);
  const sequenceOf = useCure((s) => s.sequenceOf);
  const ask = async () => {
    if (!patient || useCure.getState().step) return;
    const found = await askLong(client, 'sequence', { patient, threads: threads() });
    if (found) useCure.setState({ sequence: found, sequenceOf: patient });
  };
  return { ask, frames: sequenceFor({ sequence, sequenceOf }, patient) };
}
