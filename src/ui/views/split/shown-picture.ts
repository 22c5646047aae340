import { finished, type TrialLine } from '@/contract/trial';
import { isOfVariant, type Output, pictures } from '@/core/outputs';
import { useDesk } from '../../state/desk-store';
import { useOutputs } from '../../state/outputs-store';
import { trialsOf, useTrials } from '../../state/trials-store';
import { choose } from '../../state/variants';

/** Whether a trial is of the picture that these outputs leave from. A sample is of a shot as it came, and of none of them. */
export const isOfPicture = ({ variantFor, sample }: TrialLine, of: readonly Output[]): boolean =>
  of.every((o) => isOfVariant(o, null))
    ? !variantFor && !sample
    : !!variantFor?.some((n) => of.some((o) => o.name === n));

/**
 * Edits an output, and shows its picture in A where another one is shown: its newest trial, or the live picture. The live
 * picture stays, unless its newest trial is asked for.
 */
export function showOutput(output: Output, newestTrial = false): void {
  choose(null);
  const { outputs } = useOutputs.getState();
  const of = pictures(outputs?.list ?? []).find((p) => p.outputs.some((o) => o.id === output.id))?.outputs ?? [output];
  useOutputs.setState({ picked: output.id });
  const { a, set } = useDesk.getState();
  if (a.kind === 'live' && !newestTrial) return;
  const trials = useTrials.getState();
  const own = a.kind === 'trial' ? trials.byId.get(a.id) : undefined;
  const isShown = own && (isOfVariant(output, null) ? !own.variantFor : isOfPicture(own, of));
  if (isShown && !newestTrial) return;
  const newest = trialsOf(trials).find((t) => finished(t) && isOfPicture(t, of));
  set({ a: newest ? { kind: 'trial', id: newest.id } : { kind: 'live' }, overlay: 'none' });
}
