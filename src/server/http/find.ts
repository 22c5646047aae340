import { type SceneDocument, sceneSchema } from '@/core/scene';
import { database } from '../db/connection';
import { isId } from '../db/ids';
import { missingBlobs, type ShotRow, shotById } from '../db/shots';
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

/** A scene document that was sent, checked; its content must have been put before. */
export async function sentScene(value: unknown): Promise<SceneDocument> {
  const document = sceneSchema.parse(value);
  const { geometry, contents } = document;
  const missing = await missingBlobs(database(), [...new Set([geometry.hash, ...contents.map((c) => c.hash)])]);
  if (missing.length > 0)
    throw new Refusal(400, 'no-content', `content ${missing[0].slice(0, 12)} has not been sent`, 'scene', { missing });
  return document;
}
