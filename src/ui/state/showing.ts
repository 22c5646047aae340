import type { Trial } from '@/contract/trial';
import type { Masking } from '@/core/exr';
import type { Roles } from '@/render/views/roles';
import type { View } from '@/render/views/show';
import type { StackOver } from '@/render/views/stack';
import type { Desk } from './desk-store';
import { isAgainstB, OVERLAYS, type ShownMix } from './overlays';

/** What decides what A and B show. */
export interface Looking {
  desk: Desk;
  /** Light groups of what A shows. */
  groups: readonly string[];
  /** The trials in the slots, whole; null for what is no trial or on its way. */
  a: Trial | null;
  b: Trial | null;
  /** Whether the live film keeps a bounce ledger. */
  ledger: boolean;
  /** What the mask is made of that is looked at; null for another layer. */
  masking: Masking | null;
  /** What things are in the variant that is edited, while things are chosen for it; null at other times. */
  roles: Roles | null;
  /** Layers that the output which is edited writes, by name or family. */
  written: readonly string[];
  /** How far its openness looks, in metres; null = to the end. */
  reachMetres: number | null;
  /** Factors of the light groups by which Balance shows the slots; null as rendered. */
  mixes: Record<'a' | 'b', ShownMix | null>;
  /** The stack over what A shows; null where there is none. */
  stack: StackOver | null;
  /** Whether the screen has the colours of Display P3. */
  wide: boolean;
}

/** What A and B show. */
export interface Views {
  a: View;
  b: View;
}

export const BEAUTY: View = { kind: 'color', layer: 'beauty' };

/** The picture through the stack, where there is one and it is wanted; the beauty at other times. */
export function throughStack({ stack, desk, wide }: Looking): View {
  const isWanted = desk.view === 'comp' || desk.throughStack;
  return isWanted && stack && stack.stack.entries.length > 0 && !desk.asRendered
    ? { kind: 'stack', ...stack, wide }
    : BEAUTY;
}

/** What A and B show: an overlay, or else what the view makes of them, or the beauty. */
export function viewsOf(looking: Looking, shows: ((looking: Looking) => Views) | undefined): Views {
  const { desk, groups, mixes } = looking;
  if (desk.overlay !== 'none') {
    const overlay = OVERLAYS[desk.overlay];
    const mixed = (slot: 'a' | 'b') => (desk.view === 'balance' ? mixes[slot] : null);
    const through = overlay.stack ? throughStack(looking) : BEAUTY;
    const a = through.kind === 'stack' ? { ...through, told: overlay.stack } : overlay.view(desk, groups, mixed('a'));
    return { a, b: isAgainstB(desk.overlay) ? BEAUTY : overlay.view(desk, groups, mixed('b')) };
  }
  return shows?.(looking) ?? { a: throughStack(looking), b: BEAUTY };
}
