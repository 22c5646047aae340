import { finished, type NewTrial } from '@/contract/trial';
import type { Output } from '@/core/outputs';
import { api } from './api';
import { predictionFor } from './cure-store';
import { useDesk } from './desk-store';
import { saveDraftNow } from './draft';
import { useRecipe } from './recipe-store';
import { patientNow } from './scene-now';
import { useShot } from './shot-store';
import { tell } from './tell';
import { type ListedTrial, trialsOf, useTrials } from './trials-store';
import { variantOutputNow } from './variants';

/** The trial that what is logged next comes from: A, where it is finished, or the last one that is and is no sample. */
export function parentNow(): ListedTrial | null {
  const { a } = useDesk.getState();
  const trials = useTrials.getState();
  const own = a.kind === 'trial' ? trials.byId.get(a.id) : undefined;
  return own && finished(own) ? own : (trialsOf(trials).find((t) => finished(t) && !t.sample) ?? null);
}

/** What is told of a trial that is logged. */
type More = Partial<Pick<NewTrial, 'title' | 'predicted'>>;

/** Sends what stands on the screen as a trial, or the own picture of an output. The draft goes first, so that it is of that. */
async function send(output: string | null, parent: ListedTrial | null, more: More): Promise<ListedTrial | null> {
  const patient = patientNow();
  const { recipe } = useRecipe.getState();
  const { id: shot } = useShot.getState();
  if (!patient || !recipe) return null;
  const { first, last } = patient.document.frames;
  await saveDraftNow(shot);
  const trial = await api.logTrial({
    shot,
    camera: patient.camera,
    frame: first === last ? null : patient.frame,
    recipe,
    output,
    parent: parent?.id ?? null,
    title: more.title,
    predicted: more.predicted ?? null,
  });
  useTrials.getState().put([trial]);
  return useTrials.getState().byId.get(trial.id) ?? null;
}

/** The first trial of a shot’s own picture is what others are compared with. */
async function asBaseline(trial: ListedTrial): Promise<void> {
  const { id: shot, baseline } = useShot.getState();
  if (!baseline && !trial.variantFor) await api.setBaseline(shot, trial.id);
}

/** Logs what stands on the screen, by a title and with what it is predicted to come to; shows it in A, and what it comes from in B. */
export async function logTrial(more: More = {}): Promise<void> {
  const patient = patientNow();
  const parent = parentNow();
  if (!patient) return;
  try {
    const told = more.predicted ?? predictionFor(patient);
    const trial = await send(variantOutputNow()?.id ?? null, parent, { ...more, predicted: told });
    if (!trial) return;
    await asBaseline(trial);
    useDesk.getState().set({
      a: { kind: 'trial', id: trial.id },
      b: parent ? { kind: 'trial', id: parent.id } : null,
      overlay: 'none',
    });
  } catch (error) {
    tell(error);
  }
}

/** Logs several pictures, each of an output, in order; what is looked at stays. */
export async function logPictures(
  wanted: readonly { output: Output; predicted: NewTrial['predicted'] }[],
): Promise<void> {
  try {
    for (const { output, predicted } of wanted) {
      const trial = await send(output.id, parentNow(), { predicted });
      if (!trial) return;
      await asBaseline(trial);
    }
  } catch (error) {
    tell(error);
  }
}

/** Says something of a trial to the server; what it changes comes back as an event. */
export const saying = (request: Promise<unknown>): void => {
  request.catch(tell);
};
