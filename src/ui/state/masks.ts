import { useMemo } from 'react';
import type { Masking } from '@/core/exr';
import { LAYER } from '@/core/film';
import { type Mask, maskingOf } from '@/core/outputs';
import { pickableOf, pickedBy } from '@/core/scene';
import { useOutputs } from './outputs-store';
import { useDocument } from './scene-now';

/** The mask that a layer is; null for any other. */
export const maskOf = (masks: readonly Mask[], layer: string): Mask | null =>
  masks.find((m) => LAYER.mask(m.name) === layer) ?? null;

/** What a layer's mask is made of in the scene as it is edited; null for a layer that is no mask. */
export function useMasking(layer: string): Masking | null {
  const mask = useOutputs((s) => maskOf(s.outputs?.masks ?? [], layer));
  const document = useDocument();
  return useMemo(() => mask && maskingOf(mask, pickedBy(mask.of, pickableOf(document))), [mask, document]);
}
