import type { AskDenoised, Denoised } from '@/contract/denoised';
import type { Strengths } from '@/core/denoise';
import { displayOf } from '@/core/image';
import type { Noise } from '@/core/stats';
import { announce, type Sql } from '../db/connection';
import { askDenoised, denoisedLayers, denoisedOf, setStrengths } from '../db/denoised';
import { revisionById } from '../db/shots';
import { layersOf, type TrialRow } from '../db/trials';
import type { Made } from '../films/cut';
import { residualAt, trialsToJoin } from '../films/denoised';
import { ring, sendingQueue } from '../jobs/queue';
import { Refusal } from './respond';

/** Enough of a hash to tell one film from another. */
const MARK = 12;

/** What denoising made of a trial's film, and what that can be joined with; null where it has not been denoised. */
export async function wholeOf(sql: Sql, trial: string): Promise<Denoised | null> {
  const made = await denoisedOf(sql, trial);
  if (!made) return null;
  const { result, ...denoised } = made;
  const about = await trialsToJoin(sql, trial, await layersOf(sql, trial));
  return {
    ...denoised,
    mark: result?.slice(0, MARK) ?? null,
    about: about.map(({ number, frame }) => ({ number, frame })),
  };
}

/** Has a trial's film denoised; whether anything has to be done for it. */
export async function startDenoising(sql: Sql, trial: TrialRow, { first, joins }: AskDenoised): Promise<boolean> {
  if (!trial.film) throw new Refusal(409, 'no-film', 'the trial has no film yet', 'id');
  const { strength, neighbours } = trial.recipe.denoise;
  const how = { first, strengths: { all: strength / 100, groups: {} }, joins: joins ?? neighbours };
  const asked = await askDenoised(sql, trial.id, how, (await sendingQueue(sql)).addDenoising);
  if (asked) {
    await ring(sql, trial.id, trial.shot);
    await announce(sql, { type: 'trial', id: trial.id, shot: trial.shot, state: trial.state });
  }
  return asked;
}

/** Takes other strengths of a denoised film; the noise that is left then. */
export async function changeStrengths(sql: Sql, trial: TrialRow, strengths: Strengths): Promise<Noise> {
  const made = await denoisedOf(sql, trial.id);
  const revision = await revisionById(sql, trial.revision);
  const camera = revision?.document.cameras.find((c) => c.name === trial.camera);
  if (!made?.result || !trial.film || !camera)
    throw new Refusal(409, 'not-denoised', 'the trial has not been denoised', 'id');
  const stray = Object.keys(strengths.groups).find((g) => !trial.spec?.groups.includes(g));
  if (stray) throw new Refusal(400, 'no-group', `the film has no light group ${stray}`, 'groups');
  const residual = await residualAt(
    sql,
    trial.film,
    { hash: made.result, places: await denoisedLayers(sql, trial.id) },
    strengths,
    displayOf(camera.exposure, revision!.document.look),
  );
  if (!residual || !(await setStrengths(sql, trial.id, strengths, residual)))
    throw new Refusal(409, 'no-film', 'the film is not there any more', 'id');
  await announce(sql, { type: 'trial', id: trial.id, shot: trial.shot, state: trial.state });
  return residual;
}

/** What denoising made of a trial's film, to be taken away; refuses where there is nothing. */
export async function madeOf(sql: Sql, trial: string): Promise<Made> {
  const made = await denoisedOf(sql, trial);
  if (!made?.result) throw new Refusal(409, 'not-denoised', 'the trial has not been denoised', 'denoised');
  return { hash: made.result, strengths: made.strengths };
}
