import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { finished, type Trial } from '@/contract/trial';
import type { Factors } from '@/core/film';
import { isNeutral, type Mix, mixAt, mixFactors, type Timed } from '@/core/moods';
import { lightGroups, type SceneDocument, withOuter } from '@/core/scene';
import type { Slot } from '@/render/page/told';
import type { FilmAt } from '@/render/questions/film-at';
import { api } from './api';
import { useAsk } from './ask';
import { useDesk } from './desk-store';
import { useLive } from './live-store';
import { useMoods } from './moods-store';
import type { ShownMix } from './overlays';
import { useDocument, useFrame, useSceneGroups } from './scene-now';
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
  /** The frame that it is of. */
  frame: number;
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
  const frame = useFrame();
  const { first } = document.frames;
  return useMemo(() => {
    if (!isWanted) return null;
    if (isLive) return { of: 'live' as const, trial: null, groups: sceneGroups, own, frame };
    if (!trial || !film || !finished(trial) || !trial.recipe.film.groups) return null;
    return {
      of: film,
      trial,
      groups: trial.spec?.groups ?? (scene ? lightGroups(scene) : []),
      own,
      frame: trial.frame ?? first,
    };
  }, [isWanted, isLive, sceneGroups, own, trial, film, scene, frame, first]);
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

const UNTOLD: OwnColors = {};
const PLAIN: Timed = { mix: NO_MIX, keys: [] };

/** The mix at hand as it is at the frame of what it is over. */
export function useMixNow(mixed: Mixed | null): Mix {
  const now = useMoods((s) => s.moods?.now ?? PLAIN);
  return useMemo(() => (mixed ? mixAt(now, mixed.frame, mixed.own ?? UNTOLD) : now.mix), [now, mixed]);
}

/** The mix that a slot shows in Balance: A that at hand, B a mood where one was chosen. */
function useMixIn(slot: Slot, mixed: Mixed | null): Mix {
  const now = useMixNow(mixed);
  const moodB = useDesk((s) => s.moodB);
  const asRendered = useDesk((s) => s.asRendered);
  const chosen = useMoods((s) => (moodB ? s.moods?.list.find((m) => m.id === moodB) : undefined));
  if (slot === 'A') return asRendered ? NO_MIX : now;
  if (moodB === null) return now;
  return chosen && mixed ? mixAt(chosen, mixed.frame, mixed.own ?? UNTOLD) : NO_MIX;
}

/** Factors of the light groups that a slot shows in Balance; null where they change nothing. */
export function useFactors(slot: Slot, isWanted = true): ShownMix | null {
  const mixed = useMixed(slot, isWanted);
  const mix = useMixIn(slot, mixed);
  const alone = useDesk((s) => s.alone);
  return useMemo(() => {
    if (!mixed) return null;
    const { groups, own } = mixed;
    const isAlone = groups.some((g) => withOuter(g).some((n) => alone.includes(n)));
    if (isNeutral(mix, groups) && !isAlone) return null;
    return { groups, factors: mixFactors(groups, mix, own ?? UNTOLD, alone) };
  }, [mixed, mix, alone]);
}

/** Moods of the shot at a frame as factors of these groups. */
export function useMoodFactors(
  groups: readonly string[],
  own: OwnColors | null,
  frame: number,
): { id: string; name: string; factors: Factors }[] {
  const list = useMoods((s) => s.moods?.list);
  return useMemo(() => {
    const colors = own ?? UNTOLD;
    return (list ?? []).map((m) => ({
      id: m.id,
      name: m.name,
      factors: mixFactors(groups, mixAt(m, frame, colors), colors),
    }));
  }, [list, groups, own, frame]);
}

/** The mix at hand over the frames of the live picture, as factors by frame; null outside of Balance, and where it changes nothing. */
export function useMixOverFrames(): { groups: string[]; factors: Record<number, Factors> } | null {
  const isWanted = useDesk((s) => s.view === 'balance' && s.a.kind === 'live');
  const mixed = useMixed('A', isWanted);
  const now = useMoods((s) => s.moods?.now ?? PLAIN);
  const { first, last } = useDocument().frames;
  return useMemo(() => {
    if (!mixed || (now.keys.length === 0 && isNeutral(now.mix, mixed.groups))) return null;
    const groups = [...mixed.groups];
    const own = mixed.own ?? UNTOLD;
    const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i);
    return { groups, factors: Object.fromEntries(frames.map((f) => [f, mixFactors(groups, mixAt(now, f, own), own)])) };
  }, [mixed, now, first, last]);
}
