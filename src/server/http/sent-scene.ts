import type { z } from 'zod';
import type { newShotSchema } from '@/contract/shot';
import { canonicalJson, PRESETS, parseRecipe } from '@/core/recipe';
import { type SceneDocument, sceneSchema } from '@/core/scene';
import { sha256 } from '@/node/hash';
import { missingBlobs } from '../db/blobs';
import { database, type Sql } from '../db/connection';
import { addShot } from '../db/shots';
import { Refusal } from './respond';

/** A scene document that was sent, checked; its content must have been put before. */
export async function sentScene(value: unknown): Promise<SceneDocument> {
  const document = sceneSchema.parse(value);
  const { geometry, contents } = document;
  const missing = await missingBlobs(database(), [...new Set([geometry.hash, ...contents.map((c) => c.hash)])]);
  if (missing.length > 0)
    throw new Refusal(400, 'no-content', `content ${missing[0].slice(0, 12)} has not been sent`, 'scene', { missing });
  return document;
}

/** Adds a shot as it was sent. */
export async function addSentShot(
  sql: Sql,
  sent: z.infer<typeof newShotSchema>,
): Promise<{ id: string; name: string }> {
  const document = { ...(await sentScene(sent.scene)), name: sent.name };
  const { width, height } = document;
  const recipe =
    sent.recipe === undefined
      ? parseRecipe({ ...PRESETS.Check, size: { ...PRESETS.Check.size, width, height } })
      : parseRecipe(sent.recipe);
  const scene = { document, geometry: document.geometry.hash, hash: sha256(canonicalJson(document)) };
  const id = await addShot(sql, sent.name, scene, recipe);
  if (!id) throw new Refusal(409, 'name-taken', `there is a shot ${sent.name} already`, 'name');
  return { id, name: sent.name };
}
