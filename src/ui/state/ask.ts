import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { create } from 'zustand';
import type { Step } from '@/render/page/client';
import type { Answered, Asked, QuestionName } from '@/render/questions';
import { useClient } from './client';
import { useReady } from './live-store';
import { usePlaying } from './player-store';

/** How far questions under way have come, by their keys. */
const useSteps = create<Record<string, Step | undefined>>(() => ({}));

const identities = new WeakMap<object, number>();
let identified = 0;
function identityOf(thing: object): number {
  const known = identities.get(thing);
  if (known !== undefined) return known;
  identities.set(thing, ++identified);
  return identified;
}

/** A text that tells questions apart. Scenes and recipes are never changed in place, so the one object stands for its text. */
const keyOf = (value: unknown): string =>
  JSON.stringify(value, (name, v) =>
    (name === 'document' || name === 'recipe' || name === 'to') && typeof v === 'object' && v !== null
      ? `#${identityOf(v)}`
      : v,
  );

/** A value once it has stayed the same for a while; what it was before until then, at first null. */
function useSettled<T>(value: T, key: string, ms: number): T | null {
  const [settled, setSettled] = useState<T | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key tells when it is another
  useEffect(() => {
    if (ms === 0) return;
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [key, ms]);
  return ms === 0 ? value : settled;
}

/** How often an answer of null is asked for once more. */
const MOST_TRIES = 20;

/** What a question has been answered, and what of it is still to come. */
export interface Answer<T> {
  answer: T | null;
  /** The fault in words, when it was refused. */
  fault: string | null;
  /** Whether it is being asked. */
  asking: boolean;
  step: Step | null;
  again: () => void;
}

interface AskOptions {
  /** What the answer depends on beside what is asked: the picture's state, a trial's. */
  of?: unknown;
  /** Asked only when nothing has changed for this long. */
  afterMs?: number;
  /** Whether the last answer stays until the next one is there. */
  keep?: boolean;
  /** An answer of null is asked for once more after this long: the worker may not have been told yet. */
  againMs?: number;
  /** Whether `of` alone tells what is asked apart: what else of the scene changes makes no other answer. */
  byOf?: boolean;
  /** Whether it is asked as soon as it can be; otherwise only by `again`. */
  byItself?: boolean;
}

/**
 * Asks the film worker a question for as long as the component is there: again when what is asked changes, given up when nobody
 * looks any more, and not while frames play, which are to come quickly. `asked` is null while there is nothing to ask.
 */
export function useAsk<K extends QuestionName>(
  what: K,
  asked: Asked<K> | null,
  { of = null, afterMs = 0, keep = false, againMs, byOf = false, byItself = true }: AskOptions = {},
): Answer<Answered<K>> {
  const client = useClient();
  const ready = useReady();
  const playing = usePlaying((s) => s.on);
  const settled = useSettled({ asked, of }, byOf ? keyOf([asked === null, of]) : keyOf({ asked, of }), afterMs);
  const key = ['ask', what, byOf ? keyOf([settled?.asked === null, settled?.of]) : keyOf(settled)];
  const query = useQuery({
    queryKey: key,
    queryFn: async ({ signal }) => {
      const onStep = (step: Step) => useSteps.setState({ [key.join()]: step });
      try {
        return (await client.ask(what, settled!.asked!, { signal, onStep })) ?? null;
      } finally {
        useSteps.setState({ [key.join()]: undefined });
      }
    },
    enabled: ready && !playing && settled != null && settled.asked !== null && byItself,
    placeholderData: keep ? (before: unknown) => before as never : undefined,
    retry: false,
    gcTime: 0,
    refetchInterval:
      againMs === undefined
        ? false
        : (q) => (q.state.data === null && q.state.dataUpdateCount < MOST_TRIES ? againMs : false),
  });
  const step = useSteps((s) => s[key.join()]) ?? null;
  return {
    answer: (query.data as Answered<K> | null | undefined) ?? null,
    fault: query.error ? query.error.message : null,
    asking: query.isFetching,
    step,
    again: () => void query.refetch(),
  };
}
