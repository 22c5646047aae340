import { toast } from 'sonner';
import { api } from '../state/api';
import { saying } from '../state/log-trial';
import { tell } from '../state/tell';
import { trialsOf, useTrials } from '../state/trials-store';

/** Takes the samples of a first start out of the shot's logbook. */
export async function removeSamples(): Promise<void> {
  const samples = trialsOf(useTrials.getState()).filter((t) => t.sample);
  if (samples.length === 0) {
    toast('This logbook has no samples');
    return;
  }
  const all = (removed: boolean) => Promise.all(samples.map((t) => api.editTrial(t.id, { removed })));
  try {
    await all(true);
    toast(`${samples.length} samples taken out of the logbook`, {
      action: { label: 'Undo', onClick: () => saying(all(false)) },
    });
  } catch (error) {
    tell(error);
  }
}
