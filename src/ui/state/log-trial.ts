import { finished, type NewTrial } from '@/contract/trial';
import { api } from './api';
import { predictionFor } from './cure-store';
import { useDesk } from './desk-store';
import { saveDraftNow } from './draft';
import { patientNow } from './scene-now';
import { useShot } from './shot-store';
import { tell } from './tell';
import { type ListedTrial, trialsOf, useTrials } from './trials-store';

/** The trial that what is logged next comes from: A, where it is finished, or the last one that is and is no sample. */
export function parentNow(): ListedTrial | null {
  const { a } = useDesk.getState();
  const trials = useTrials.getState();
  const own = a.kind === 'trial' ? trials.byId.get(a.id) : undefined;
  return own && finished(own) ? own : (trialsOf(trials).find((t) => finished(t) && !t.sample) ?? null);
}

/** Logs what stands on the screen, by a title and with what it is predicted to come to; shows it in A, and what it comes from in B. */
export async function logTrial(more: Partial<Pick<NewTrial, 'title' | 'predicted'>> = {}): Promise<void> {
  const patient = patientNow();
  const { id: shot, baseline } = useShot.getState();
  if (!patient) return;
  const { first, last } = patient.document.frames;
  const parent = parentNow();
  try {
    // The trial is of what is on the screen: the draft goes first.
    await saveDraftNow(shot);
    const trial = await api.logTrial({
      shot,
      camera: patient.camera,
      frame: first === last ? null : patient.frame,
      recipe: patient.recipe,
      parent: parent?.id ?? null,
      title: more.title,
      predicted: more.predicted ?? predictionFor(patient),
    });
    useTrials.getState().put([trial]);
    if (!baseline) await api.setBaseline(shot, trial.id);
    useDesk.getState().set({
      a: { kind: 'trial', id: trial.id },
      b: parent ? { kind: 'trial', id: parent.id } : null,
      overlay: 'none',
    });
  } catch (error) {
    tell(error);
  }
}

/** Says something of a trial to the server; what it changes comes back as an event. */
export const saying = (request: Promise<unknown>): void => {
  request.catch(tell);
};
