import { type Denoised, isFiltered, isUnderWay } from '@/contract/denoised';
import { finished, type Trial } from '@/contract/trial';
import { filmKept, keepsReaches, layersKept, OPENNESS } from '@/core/film';
import { type Content, type SceneDocument, stillAt } from '@/core/scene';
import type { Source } from '@/render/page/told';
import type { Placement } from '@/render/views/place';
import type { Pick } from './desk-store';
import type { ListedTrial } from './trials-store';

/** Where a trial's pixels lie in their frame. */
export function placementOf({ pixels: { width, height, region } }: { pixels: Trial['pixels'] }): Placement {
  return { width, height, x: region.x, y: region.y, w: region.width, h: region.height };
}

/** Names of the layers that a trial's film keeps, or that were delivered of it. */
export function trialLayers({ recipe, spec, delivered }: Trial): string[] {
  if (delivered) return delivered;
  const kept = layersKept(filmKept(recipe), spec?.groups ?? []);
  return spec && kept.includes(OPENNESS.bands) && !keepsReaches(spec)
    ? kept.map((n) => (n === OPENNESS.bands ? OPENNESS.layer : n))
    : kept;
}

/** The layer that is shown where one is looked at: the picture, where a film has not got it. `has`: null for the live picture. */
export const shownLayer = (layer: string, has: readonly string[] | null): string =>
  has && !has.includes(layer) ? 'beauty' : layer;

/** What the film worker is to put into a slot; null while what is needed to say so is on its way. */
export function sourceOf(
  pick: Pick | null,
  trial: ListedTrial | null,
  whole: Trial | null,
  reference: Content | null = null,
  made: Denoised | null = null,
): Source | null {
  if (!pick) return null;
  if (pick.kind === 'reference') return reference && { kind: 'reference', content: reference };
  if (pick.kind === 'live') return { kind: 'live' };
  if (!trial) return null;
  const frame = placementOf(trial);
  if (!finished(trial)) return { kind: 'preview', id: trial.id, version: trial.preview, frame };
  if (whole?.id !== trial.id || !whole.spec) return null;
  const plain: Source = {
    kind: 'trial',
    id: trial.id,
    film: trial.film,
    denoised: null,
    groups: whole.spec.groups,
    layers: trialLayers(whole),
    frame,
  };
  const { denoised } = trial;
  if (!pick.denoised || !denoised) return plain;
  if (isFiltered(denoised)) return made && { ...plain, denoised: takenOf({ ...made, ...denoised }) };
  if (!isUnderWay(denoised)) return plain;
  return { kind: 'preview', id: trial.id, version: trial.preview, frame, before: plain };
}

/** What denoising made of a film, as questions about it name it. */
export const takenOf = ({ mark, layers, strengths }: Denoised) => ({ mark, layers, strengths });

/** The picture that a slot shows of the scene's contents: one by name, or a plate's still at the frame. */
export function referenceOf(document: SceneDocument, pick: Pick | null, frame: number): Content | null {
  if (pick?.kind !== 'reference') return null;
  const plate = document.plates.find((p) => p.name === pick.name);
  const name = plate ? stillAt(plate, frame) : pick.name;
  return document.contents.find((c) => c.name === name) ?? null;
}
