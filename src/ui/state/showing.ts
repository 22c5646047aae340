import { FEATURES, isData, MEASURED_LAYERS } from '@/core/film';
import { PATH_CLASSES } from '@/core/kernel';
import { frameOf } from '@/core/recipe';
import type { Content } from '@/core/scene';
import type { Placement, Source } from '@/render/film-protocol';
import type { View } from '@/render/view';
import type { Pick, useDesk } from './desk-store';
import { finished, type Trial } from './types';

type Desk = ReturnType<typeof useDesk.getState>;

/** Where a trial's pixels lie in their frame. */
export function placementOf(trial: Trial): Placement {
  const { width, height, region } = frameOf(trial.recipe);
  return { width, height, x: region.x, y: region.y, w: region.width, h: region.height };
}

/** Light groups of a film: its own, which the scene may have left behind since. */
export const filmGroups = (trial: Trial | null, groups: string[]): string[] => trial?.spec?.groups ?? groups;

/** Layer names a trial's recipe keeps. */
export function trialLayers(trial: Trial, groups: string[]): string[] {
  const { film } = trial.recipe;
  const names = ['beauty', 'half_a', 'half_b'];
  if (film.groups)
    names.push(...groups.map((g) => `group.${g}`), ...groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]));
  if (film.classes) names.push(...PATH_CLASSES.map((c) => `class.${c}`));
  names.push(...film.pairs.filter((p) => groups.includes(p.group)).map((p) => `pair.${p.group}.${p.class}`));
  if (film.ledger !== 'off')
    names.push(...Array.from({ length: 17 }, (_, b) => `bounce.${String(b).padStart(2, '0')}`));
  if (film.lostLight) names.push('lost');
  names.push(...film.features.map((f) => FEATURES[f].layer), ...MEASURED_LAYERS);
  return names;
}

/** What the film worker is to put into a slot. */
export function sourceOf(
  pick: Pick | null,
  trial: Trial | null,
  preview: number,
  groups: string[],
  reference: Content | null = null,
): Source | null {
  if (!pick) return null;
  if (pick.kind === 'reference') return reference && { kind: 'reference', content: reference };
  if (pick.kind === 'live') return { kind: 'live' };
  if (!trial) return null;
  if (!finished(trial)) return { kind: 'preview', id: trial.id, version: preview, frame: placementOf(trial) };
  const own = filmGroups(trial, groups);
  return { kind: 'trial', id: trial.id, groups: own, layers: trialLayers(trial, own), frame: placementOf(trial) };
}

/** What A and B show, from the view, the overlay and the layer chosen. */
export function viewsOf(
  desk: Desk,
  groups: string[],
  a: Trial | null,
  b: Trial | null,
  /** Whether the live film keeps a bounce ledger. */
  ledger = false,
): { a: View; b: View } {
  const beauty: View = { kind: 'color', layer: 'beauty' };
  const overlays: Record<Desk['overlay'], View | null> = {
    none: null,
    noise: { kind: 'noise', of: desk.noiseOf !== null && groups.includes(desk.noiseOf) ? desk.noiseOf : null },
    cost: { kind: 'cost' },
    difference: { kind: 'difference', gain: desk.differenceGain },
    flip: { kind: 'flip' },
    'tally-group': { kind: 'tally', parting: 'group' },
    'tally-class': { kind: 'tally', parting: 'class' },
    clipped: { kind: 'clipped' },
  };
  const overlay = overlays[desk.overlay];
  if (overlay) return { a: overlay, b: overlay.kind === 'difference' || overlay.kind === 'flip' ? beauty : overlay };
  if (desk.view === 'split') {
    const view: View = isData(desk.layer)
      ? { kind: 'data', layer: desk.layer, range: desk.range }
      : { kind: 'color', layer: desk.layer };
    return { a: view, b: view };
  }
  if (desk.view === 'balance') {
    const relit = (t: Trial | null): View =>
      t && desk.balances[t.id]
        ? { kind: 'relit', groups: filmGroups(t, groups), balance: desk.balances[t.id] }
        : beauty;
    return { a: relit(a), b: relit(b) };
  }
  if (desk.face === 'depth' && desk.depthLimit !== null) {
    const at = (keeps: boolean): View =>
      keeps ? { kind: 'depth', limit: desk.depthLimit!, difference: desk.depthDifference } : beauty;
    return { a: at(desk.a.kind === 'live' ? ledger : a?.recipe.film.ledger !== 'off'), b: beauty };
  }
  return { a: beauty, b: beauty };
}
