import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { finished, type Trial } from '@/contract/trial';
import type { Factors } from '@/core/film';
import { isNeutral, type Mix, mixFactors } from '@/core/moods';
import { lightGroups, type SceneDocument } from '@/core/scene';
import type { Slot } from '@/render/page/told';
import type { FilmAt } from '@/render/questions/film-at';
import { api } from './api';
import { useAsk } from './ask';
import { useDesk } from './desk-store';
import { useLive } from './live-store';
import { useMoods } from './moods-store';
import type { ShownMix } from './overlays';
import { useDocument, useSceneGroups } from './scene-now';
import { useSlotFilm, useWholeSlot } from './slots';

/** Milliseconds without an edit after which what lights emit is asked for anew. */
const SETTLED_MS = 150;
const NO_MIX: Mix = {};

export type OwnColors = Readonly<Record<string, readonly number[]>>;

/** The scene that a trial was rendered of; null while it comes, and without a trial. */
export function useSceneOf(trial: { revision: string } | null): SceneDocument | null {
  const { data } = useQuery({
    queryKey: ['scene of', trial?.revision],
    queryFn: async () => (await api.revision(trial!.revision)).revision.document,
    enabled: trial !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? null;
}

/** What each light group of a scene emits; null while it is worked out. */
export const useOwnColors = (document: SceneDocument | null): OwnColors | null =>
  useAsk('emitted', document && { document }, { afterMs: SETTLED_MS, keep: true }).answer;

/** What a slot shows that can be balanced: the live picture, or a finished trial whose film keeps light groups. */
export interface Mixed {
  of: FilmAt;
  trial: Trial | null;
  groups: readonly string[];
  /** What they emitted when it was rendered; null while it is worked out. */
  own: OwnColors | null;
}

/** What can be balanced in a slot; null where it shows nothing of the kind, and while nobody wants to know. */
export function useMixed(slot: Slot, isWanted = true): Mixed | null {
  const isLive = useDesk((s) => (slot === 'A' ? s.a : s.b)?.kind === 'live');
  const sceneGroups = useSceneGroups();
  const document = useDocument();
  const trial = useWholeSlot(slot);
  const film = useSlotFilm(slot);
  const scene = useSceneOf(isWanted && !isLive ? trial : null);
  const own = useOwnColors(isWanted ? (isLive ? document : scene) : null);
  return useMemo(() => {
    if (!isWanted) return null;
    if (isLive) return { of: 'live' as const, trial: null, groups: sceneGroups, own };
    if (!trial || !film || !finished(trial) || !trial.recipe.film.groups) return null;
    return { of: film, trial, groups: trial.spec?.groups ?? (scene ? lightGroups(scene) : []), own };
  }, [isWanted, isLive, sceneGroups, own, trial, film, scene]);
}

/** How far the film in A has come: `tick` changes whenever what is measured of it is to be measured anew. */
export function useMixedState({ trial }: Mixed): { tick: string; isThere: boolean; isWhole: boolean } {
  // The live picture is measured each time its samples have doubled.
  const doubled = useLive((s) => Math.floor(Math.log2(Math.max(1, s.status?.samples ?? 0))));
  const isDone = useLive((s) => s.status?.state === 'done');
  const changes = useLive((s) => s.status?.changes ?? 0);
  if (trial) return { tick: trial.state, isThere: true, isWhole: true };
  return { tick: `${changes} ${isDone ? 'done' : doubled}`, isThere: doubled > 0 || isDone, isWhole: isDone };
}

/** The mix at hand. */
export const useMixNow = (): Mix => useMoods((s) => s.moods?.now.mix ?? NO_MIX);

/** The mix that a slot shows in Balance: A that at hand, B a mood where one was chosen. */
function useMixIn(slot: Slot): Mix {
  const now = useMixNow();
  const moodB = useDesk((s) => s.moodB);
  const asRendered = useDesk((s) => s.asRendered);
  const chosen = useMoods((s) => (moodB ? s.moods?.list.find((m) => m.id === moodB)?.mix : undefined));
  if (slot === 'A') return asRendered ? NO_MIX : now;
  return moodB === null ? now : (chosen ?? NO_MIX);
}

const UNTOLD: OwnColors = {};

/** Factors of the light groups that a slot shows in Balance; null where they change nothing. */
export function useFactors(slot: Slot, isWanted = true): ShownMix | null {
  const mixed = useMixed(slot, isWanted);
  const mix = useMixIn(slot);
  const alone = useDesk((s) => s.alone);
  return useMemo(() => {
    if (!mixed) return null;
    const { groups, own } = mixed;
    if (isNeutral(mix, groups) && !alone.some((g) => groups.includes(g))) return null;
    return { groups, factors: mixFactors(groups, mix, own ?? UNTOLD, alone) };
  }, [mixed, mix, alone]);
}

/** Moods of the shot as factors of these groups. */
export function useMoodFactors(
  groups: readonly string[],
  own: OwnColors | null,
): { id: string; name: string; factors: Factors }[] {
  const list = useMoods((s) => s.moods?.list);
  return useMemo(
    () => (list ?? []).map(({ id, name, mix }) => ({ id, name, factors: mixFactors(groups, mix, own ?? UNTOLD) })),
    [list, groups, own],
  );
}
