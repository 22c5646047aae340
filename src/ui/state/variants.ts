import { create } from 'zustand';
import type { TrialLine } from '@/contract/trial';
import { isOfVariant, type Output, type Variant } from '@/core/outputs';
import type { ThingPick } from '@/core/scene';
import { withRenamed } from '@/core/stacks';
import { useDesk } from './desk-store';
import { together } from './history';
import { pickedOutput, useOutputs } from './outputs-store';
import { useStack } from './stack-store';

/**
 * Whether a trial is of the picture of an output as it stands. A sample is of a shot as it came, and a step of a ladder of a
 * question: of no output.
 */
export const isOfPicture = ({ variantFor, sample, ladder }: TrialLine, output: Output): boolean =>
  !sample && !ladder && isOfVariant(output, variantFor?.variant ?? null);

/** What things of a variant can be chosen for. */
export type Role = 'receivers' | 'casters' | 'catchers';

/** What things are being chosen for, by clicking in the picture, and of which output. */
const useChoosing = create<{ role: Role | null; of: string | null }>(() => ({ role: null, of: null }));

/** Things that a variant has chosen for a role; null where it has not chosen, and the recipe's own hold. */
export function chosenFor(variant: Variant | null, role: Role): readonly ThingPick[] | null {
  const picks = variant?.[`scope.${role}`];
  return Array.isArray(picks) ? (picks as unknown as ThingPick[]) : null;
}

/** The output whose own picture is looked at, in Split; null for the shot's. */
function lookedAt(view: string, output: Output | null): Output | null {
  return view === 'split' && output && !isOfVariant(output, null) ? output : null;
}

/** The output with a picture of its own that is edited; null for others, and outside of Split. */
export function useVariantOutput(): Output | null {
  const view = useDesk((s) => s.view);
  const output = useOutputs(pickedOutput);
  return lookedAt(view, output);
}

/** The same outside of a component. */
export const variantOutputNow = (): Output | null =>
  lookedAt(useDesk.getState().view, pickedOutput(useOutputs.getState()));

/** What things of the output that is edited are being chosen for; null while nobody chooses. */
export function useRole(): Role | null {
  const output = useVariantOutput();
  return useChoosing((s) => (s.of === output?.id ? s.role : null));
}

/** The same outside of a component. */
export function roleNow(): Role | null {
  const { role, of } = useChoosing.getState();
  return of === variantOutputNow()?.id ? role : null;
}

/** Begins to choose things for a role of the output that is edited, on the live picture; null ends it. */
export function choose(role: Role | null): void {
  useChoosing.setState({ role, of: variantOutputNow()?.id ?? null });
  if (role) useDesk.getState().set({ a: { kind: 'live' }, overlay: 'none' });
}

/** Calls an output otherwise, in the stack too where that takes its picture; the fault in words. */
export function renameOutput({ id, name: from }: Output, to: string): string | null {
  const words = `output ${from} renamed ${to}`;
  return together(words, () => {
    const fault = useOutputs.getState().edit(words, id, (o) => ({ ...o, name: to }));
    const { stack, replace } = useStack.getState();
    return fault ?? (stack && replace(words, withRenamed(stack, from, to)));
  });
}

/** The variant that the live picture is of: none while things are chosen, so that all can be seen. */
export function useLiveVariant(): Variant | null {
  const output = useVariantOutput();
  const role = useRole();
  return role ? null : (output?.variant ?? null);
}

export const liveVariantNow = (): Variant | null => (roleNow() ? null : (variantOutputNow()?.variant ?? null));
