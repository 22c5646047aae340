import { useMemo } from 'react';
import { finished, type Trial } from '@/contract/trial';
import { type StackDocument, StackError } from '@/core/comp';
import { filmKept, layersKept, OPENNESS } from '@/core/film';
import type { Mask } from '@/core/outputs';
import { type OverFilm, stackOver } from '@/core/stacks';
import type { FilmOf } from '@/render/views/film-of';
import { useDesk } from './desk-store';
import { useMixed, useMoodFactors } from './mixing';
import { useOutputs } from './outputs-store';
import { useCamera, useDocument, useFrame, useKeptRecipe, useSceneExposure, useSceneGroups } from './scene-now';
import { useWholeSlot } from './slots';
import { trialLayers } from './sources';
import { useStackFilms, type View } from './stack-films';
import { useStack } from './stack-store';

/** The shot's stack as it is over what A shows. */
export interface Stacked extends OverFilm<FilmOf> {
  document: StackDocument;
  frame: number;
  /** Layers of what A shows. */
  kept: readonly string[];
  /** Whether A shows the live picture. */
  isLive: boolean;
}

/** Frames of a still over which numbers may be set, where the stack does not say. */
const STILL_FRAMES = { first: 1, last: 24 };

/** Frames over which the stack is keyed: the shot's, or its own over a still. */
export function useStackFrames(): { first: number; last: number } {
  const { frames } = useDocument();
  const own = useStack((s) => s.stack?.frames as typeof STILL_FRAMES | null | undefined);
  return frames.first < frames.last ? frames : (own ?? STILL_FRAMES);
}

/** The frame that the stack is looked at: chosen in its strip, or that of what A shows. */
export function useStackFrame(): number {
  const chosen = useDesk((s) => s.stackFrame);
  const shot = useFrame();
  const trial = useWholeSlot('A');
  const isLive = useDesk((s) => s.a.kind === 'live');
  const { first, last } = useStackFrames();
  const { frames } = useDocument();
  // A live picture of a shot of several frames has the frame that is rendered, whatever was looked at over a still.
  if (isLive && frames.first < frames.last) return shot;
  const own = isLive ? shot : (trial?.frame ?? shot);
  return Math.min(last, Math.max(first, chosen ?? own));
}

const NO_MASKS: readonly Mask[] = [];
const NO_GROUPS: readonly string[] = [];
const NOTHING = {};
/** Layers of what A shows: a trial's, or those that the live picture keeps; null while A shows nothing that can be stacked. */
function useKept(): ({ kept: readonly string[]; isLive: boolean } & View) | null {
  const isLive = useDesk((s) => s.a.kind === 'live');
  const trial: Trial | null = useWholeSlot('A');
  const recipe = useKeptRecipe();
  const groups = useSceneGroups();
  const looked = useFrame();
  const { first, last } = useDocument().frames;
  // Trials of a shot of one frame are of none in particular.
  const frame = first === last ? null : looked;
  const camera = useCamera().name;
  return useMemo(() => {
    if (isLive) return recipe && { kept: layersKept(filmKept(recipe), groups), isLive, frame, camera };
    if (!trial || !finished(trial)) return null;
    return { kept: trialLayers(trial), isLive, frame: trial.frame, camera: trial.camera };
  }, [isLive, recipe, groups, trial, frame, camera]);
}

/** The shot's stack over what A shows; null where there is nothing to stack, the fault in words where it cannot be read. */
export function useStacked(): Stacked | string | null {
  const stack = useStack((s) => s.stack);
  const frame = useStackFrame();
  const own = useKept();
  const scene = useDocument();
  const scale = useSceneExposure();
  const masks = useOutputs((s) => s.outputs?.masks ?? NO_MASKS);
  const lookedAt = useDesk((s) => s.stackMask);
  const films = useStackFilms(own);
  const inMoods = useStack((s) => Object.keys((s.stack?.moods ?? NOTHING) as object).length > 0);
  const mixed = useMixed('A', inMoods);
  const mixes = useMoodFactors(mixed?.groups ?? NO_GROUPS, mixed?.own ?? null, frame);
  const moods = useMemo(
    () => Object.fromEntries(mixes.map(({ name, factors }) => [name, { groups: mixed?.groups ?? NO_GROUPS, factors }])),
    [mixes, mixed],
  );
  return useMemo(() => {
    if (!stack || !own) return null;
    try {
      const { kept, isLive } = own;
      const otherFilm = (where: string) => films.get(where);
      const on = { document: stack, frame, kept, scene, scale, masks, moods, otherFilm, lookedAt };
      const over = stackOver(on);
      return {
        ...over,
        document: stack,
        frame,
        kept: kept.includes(OPENNESS.bands) ? [...kept, OPENNESS.layer] : kept,
        isLive,
      };
    } catch (error) {
      if (error instanceof StackError) return error.message;
      throw error;
    }
  }, [stack, frame, own, scene, scale, masks, moods, films, lookedAt]);
}
