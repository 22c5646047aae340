import { decodePng } from '@/core/image';
import { framesBeside, glanceOf, parseFrames, stepOf } from '@/core/runs';
import type { Sql } from '../db/connection';
import { glancesOf, type Looked, noteGlance, noteStep } from '../db/steps';

/**
 * Notes what a finished frame of a run looks like in a few cells, and how far it and those beside it stand out from what their own
 * neighbours lead to expect. Whoever of two neighbours is finished last sees both.
 */
export async function noteSteps(sql: Sql, trial: string): Promise<void> {
  const own = await noteGlance(sql, trial, (thumbnail) => {
    const { values, width, height, channels } = decodePng(thumbnail);
    return glanceOf(values, width, height, channels);
  });
  if (!own) return;
  const list = parseFrames(own.frames);
  const at = list.indexOf(own.frame);
  const about = list.slice(Math.max(0, at - 2), at + 3);
  const looks = new Map((await glancesOf(sql, own.run, own.picture, about)).map((l): [number, Looked] => [l.frame, l]));
  for (const frame of about) {
    const beside = framesBeside(list, frame);
    const [a, o, b] = [beside?.before, frame, beside?.after].map((f) => looks.get(f ?? Number.NaN));
    if (beside && a && o && b) await noteStep(sql, o.id, stepOf(a.glance, o.glance, b.glance, beside.share));
  }
}
