import { useMemo } from 'react';
import { finished, type Trial } from '@/contract/trial';
import { fitted, layersOf, type Need, type Stack, type StackDocument, StackError, shownIn, stackAt } from '@/core/comp';
import { maskNeeds } from '@/core/exr';
import { filmKept, LAYER, layersKept, OPENNESS } from '@/core/film';
import { type Mask, maskingOf } from '@/core/outputs';
import { coverageNames, pickableOf, pickedBy, type SceneDocument, stillAt } from '@/core/scene';
import type { StackOver } from '@/render/views/stack';
import { useDesk } from './desk-store';
import { useOutputs } from './outputs-store';
import { useDocument, useFrame, useKeptRecipe, useSceneExposure, useSceneGroups } from './scene-now';
import { useWholeSlot } from './slots';
import { trialLayers } from './sources';
import { useStack } from './stack-store';

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
  const own = isLive ? shot : (trial?.frame ?? shot);
  return Math.min(last, Math.max(first, chosen ?? own));
}

const NO_MASKS: readonly Mask[] = [];

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

/** The shot's stack over what A shows; null where there is nothing to stack, the fault in words where it cannot be read. */
export function useStacked(): Stacked | string | null {
  const stack = useStack((s) => s.stack);
  const frame = useStackFrame();
  const own = useKept();
  const scene = useDocument();
  const scale = useSceneExposure();
  const masks = useOutputs((s) => s.outputs?.masks ?? NO_MASKS);
  return useMemo(() => {
    if (!stack || !own) return null;
    try {
      return stacked(stack, frame, own, scene, scale, masks);
    } catch (error) {
      if (error instanceof StackError) return error.message;
      throw error;
    }
  }, [stack, frame, own, scene, scale, masks]);
}

function stacked(
  document: StackDocument,
  frame: number,
  { kept, isLive }: { kept: readonly string[]; isLive: boolean },
  scene: SceneDocument,
  scale: number,
  masks: readonly Mask[],
): Stacked {
  const plain = stackAt(document, frame);
  const from = pickableOf(scene);
  const made = Object.fromEntries(masks.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))] as const));
  /** What a film keeps of which a layer is made. */
  const of = (layer: string): string[] => {
    if (made[layer]) return maskNeeds(made[layer]).flatMap(of);
    return [layer === OPENNESS.layer && kept.includes(OPENNESS.bands) ? OPENNESS.bands : layer];
  };
  const isThere = (layer: string) => of(layer).every((n) => kept.includes(n));
  const shown = shownIn(plain);
  const contents = contentsOf(plain, scene, frame);
  const { stack, missing } = fitted(plain, {
    layer: ({ film, layer }) => shown.includes(film) && isThere(layer),
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
      others: {},
      contents,
      tables: stack.tables,
    },
  };
}
