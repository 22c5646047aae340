import { database } from '../db/connection';
import { isId } from '../db/ids';
import { type ShotRow, shotById } from '../db/shots';
import { type TrialRow, trialById } from '../db/trials';
import { Refusal } from './respond';

/** The shot of a route, or a 404. */
export async function findShot(id: string): Promise<ShotRow> {
  const shot = isId(id) ? await shotById(database(), id) : null;
  if (!shot) throw new Refusal(404, 'no-shot', `there is no shot ${id.slice(0, 40)}`, 'id');
  return shot;
}

/** The trial of a route, or a 404. */
export async function findTrial(id: string): Promise<TrialRow> {
  const trial = isId(id) ? await trialById(database(), id) : null;
  if (!trial) throw new Refusal(404, 'no-trial', `there is no trial ${id.slice(0, 40)}`, 'id');
  return trial;
}
