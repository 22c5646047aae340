import { useMemo } from 'react';
import { finished, type Trial } from '@/contract/trial';
import {
  ALL_GROUPS,
  fitted,
  layersOf,
  type Need,
  OF_TRIAL,
  type Stack,
  type StackDocument,
  StackError,
  shownIn,
  stackAt,
} from '@/core/comp';
import { maskNeeds } from '@/core/exr';
import { filmKept, LAYER, layerInfo, layersKept, OPENNESS } from '@/core/film';
import { type Mask, maskingOf } from '@/core/outputs';
import { coverageNames, pickableOf, pickedBy, type SceneDocument, stillAt } from '@/core/scene';
import type { FilmOf } from '@/render/views/film-of';
import type { StackOver } from '@/render/views/stack';
import { useDesk } from './desk-store';
import { useMixed, useMoodFactors } from './mixing';
import { useOutputs } from './outputs-store';
import { useDocument, useFrame, useKeptRecipe, useSceneExposure, useSceneGroups } from './scene-now';
import { useWholeSlot } from './slots';
import { trialLayers } from './sources';
import { useStack } from './stack-store';
import { type ListedTrial, useTrials } from './trials-store';

/** The shot's stack as it is over what A shows. */
export interface Stacked {
  document: StackDocument;
  /** As it is at the frame; entries that lack something are off. */
  stack: Stack;
  frame: number;
  over: StackOver;
  /** What entries lack, by where they stand. */
  missing: ReadonlyMap<string, Need[]>;
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
const NO_TRIALS: ReadonlyMap<string, ListedTrial> = new Map();
const NOTHING = {};

/** Layers of what A shows: a trial's, or those that the live picture keeps; null while A shows nothing that can be stacked. */
function useKept(): { kept: readonly string[]; isLive: boolean } | null {
  const isLive = useDesk((s) => s.a.kind === 'live');
  const trial: Trial | null = useWholeSlot('A');
  const recipe = useKeptRecipe();
  const groups = useSceneGroups();
  return useMemo(() => {
    if (isLive) return recipe && { kept: layersKept(filmKept(recipe), groups), isLive };
    return trial && finished(trial) ? { kept: trialLayers(trial), isLive } : null;
  }, [isLive, recipe, groups, trial]);
}

function contentsOf(stack: Stack, document: SceneDocument, frame: number): StackOver['contents'] {
  const found = Object.entries(stack.pictures).flatMap(([name, { file }]) => {
    const plate = document.plates.find((p) => p.name === file);
    const still = plate ? stillAt(plate, frame) : file;
    const content = document.contents.find((c) => c.name === still) ?? null;
    return content || plate ? [[name, content] as const] : [];
  });
  return Object.fromEntries(found);
}

/** Films of finished trials that a stack takes, by its names for them. */
function othersOf({ films }: Stack, trials: ReadonlyMap<string, ListedTrial>): Record<string, FilmOf> {
  const found = Object.entries(films).flatMap(([name, where]) => {
    const trial = where.startsWith(OF_TRIAL) ? trials.get(where.slice(OF_TRIAL.length)) : undefined;
    return trial && finished(trial) ? [[name, { id: trial.id, film: trial.film, denoised: null }] as const] : [];
  });
  return Object.fromEntries(found);
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
  const hasTrials = useStack((s) => JSON.stringify(s.stack?.films ?? {}).includes(`"${OF_TRIAL}`));
  const trials = useTrials((s) => (hasTrials ? s.byId : NO_TRIALS));
  const inMoods = useStack((s) => Object.keys((s.stack?.moods ?? NOTHING) as object).length > 0);
  const mixed = useMixed('A', inMoods);
  const list = useMoodFactors(mixed?.groups ?? NO_GROUPS, mixed?.own ?? null, frame);
  const moods = useMemo(
    () => Object.fromEntries(list.map(({ name, factors }) => [name, { groups: mixed?.groups ?? NO_GROUPS, factors }])),
    [list, mixed],
  );
  return useMemo(() => {
    if (!stack || !own) return null;
    try {
      return stacked(stack, frame, own, scene, scale, masks, moods, trials, lookedAt);
    } catch (error) {
      if (error instanceof StackError) return error.message;
      throw error;
    }
  }, [stack, frame, own, scene, scale, masks, moods, trials, lookedAt]);
}

function stacked(
  document: StackDocument,
  frame: number,
  { kept, isLive }: { kept: readonly string[]; isLive: boolean },
  scene: SceneDocument,
  scale: number,
  masks: readonly Mask[],
  moods: StackOver['moods'],
  trials: ReadonlyMap<string, ListedTrial>,
  lookedAt: string | null,
): Stacked {
  const plain = stackAt(document, frame);
  const from = pickableOf(scene);
  const made = Object.fromEntries(masks.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))] as const));
  /** What a film keeps of which a layer is made. */
  const of = (layer: string): string[] => {
    if (made[layer]) return maskNeeds(made[layer]).flatMap(of);
    if (layer === ALL_GROUPS) {
      const groups = kept.filter((n) => layerInfo(n).family === 'group');
      return groups.length > 0 ? groups : [ALL_GROUPS];
    }
    return [layer === OPENNESS.layer && kept.includes(OPENNESS.bands) ? OPENNESS.bands : layer];
  };
  const isThere = (layer: string) => of(layer).every((n) => kept.includes(n));
  const shown = shownIn(plain);
  const others = othersOf(plain, trials);
  const contents = contentsOf(plain, scene, frame);
  const { stack, missing } = fitted(plain, {
    layer: ({ film, layer }) => (shown.includes(film) ? isThere(layer) : Object.hasOwn(others, film)),
    picture: (name) => Object.hasOwn(contents, name),
  });
  const read = shown.flatMap((film) => layersOf(stack, film)).flatMap(of);
  return {
    document,
    stack,
    frame,
    missing,
    kept: kept.includes(OPENNESS.bands) ? [...kept, OPENNESS.layer] : kept,
    isLive,
    over: {
      stack,
      layers: [...new Set(read)].filter((l) => kept.includes(l)),
      objects: coverageNames(scene),
      masks: made,
      scale,
      others: Object.fromEntries(
        // Of another trial light is taken as it is: it hides nothing.
        Object.entries(others).flatMap(([name, film]) => {
          const layers = layersOf(stack, name).filter((l) => l !== 'alpha');
          return layers.length > 0 ? [[name, { of: film, layers }]] : [];
        }),
      ),
      contents,
      tables: stack.tables,
      // A mood of the stack is one of the shot by its name.
      moods: Object.fromEntries(
        Object.entries(stack.moods).flatMap(([name, of]) => (moods[of] ? [[name, moods[of]]] : [])),
      ),
      lookedAt,
    },
  };
}
