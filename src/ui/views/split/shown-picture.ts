import { finished } from '@/contract/trial';
import { isOfVariant, type Output } from '@/core/outputs';
import { useDesk } from '../../state/desk-store';
import { useOutputs } from '../../state/outputs-store';
import { trialsOf, useTrials } from '../../state/trials-store';
import { choose, isOfPicture } from '../../state/variants';

/**
 * Edits an output, and shows its picture in A where another one is shown: its newest trial, or the live picture. The live
 * picture stays, unless its newest trial is asked for.
 */
export function showOutput(output: Output, newestTrial = false): void {
  choose(null);
  useOutputs.setState({ picked: output.id });
  const { a, set } = useDesk.getState();
  if (a.kind === 'live' && !newestTrial) return;
  const trials = useTrials.getState();
  const own = a.kind === 'trial' ? trials.byId.get(a.id) : undefined;
  const isShown = own && isOfVariant(output, own.variantFor?.variant ?? null);
  if (isShown && !newestTrial) return;
  const newest = trialsOf(trials).find((t) => finished(t) && isOfPicture(t, output));
  set({ a: newest ? { kind: 'trial', id: newest.id } : { kind: 'live' }, overlay: 'none' });
}
