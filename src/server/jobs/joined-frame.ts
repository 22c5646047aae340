import { variantOf } from '@/core/outputs';
import { canonicalJson } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import type { Filtering } from '@/render/node/denoised-frame';
import type { FilmOrigin } from '@/render/node/film-exr';
import type { RenderedFrame } from '@/render/node/rendered-frame';
import type { Sql } from '../db/connection';
import type { TrialRow } from '../db/trials';
import { framesToJoin } from '../films/denoised';
import { readLayers } from '../films/open';
import { type PackedFrame, packFrame } from '../films/pack';
import type { Studio } from './studio';

/** A frame whose film was stored, as it came out of the threads. */
async function storedFrame(sql: Sql, { film, spec }: TrialRow): Promise<RenderedFrame> {
  const read = film && spec && (await readLayers(sql, film, () => true));
  if (!read) throw new Error('the film is not there any more');
  return { spec, layer: (name) => read.layers.get(name)! };
}

/** Denoises a frame of a run that was traced, joined with those beside it, and packs its files. */
export async function packJoined(
  sql: Sql,
  studio: Studio,
  trial: TrialRow,
  filtering: Filtering | null,
): Promise<PackedFrame> {
  const { id, revision, recipe, recipeHash, outputs, run } = trial;
  const scene = await studio.sceneOf(revision);
  const camera = scene.document.cameras.find((c) => c.name === trial.camera);
  if (!camera) throw new Error(`the scene has no camera ${trial.camera}`);
  const frame = trial.frame!;
  const origin: FilmOrigin = {
    ...{ scene, camera, frame, recipe, recipeHash, variant: variantOf(outputs) },
    sceneHash: sha256(canonicalJson(scene.document)),
    noisePercent: trial.noise?.rms ?? null,
    traceSeconds: trial.seconds?.trace ?? 0,
    version: studio.version,
  };
  const { neighbours } = await framesToJoin(sql, id);
  const rendered = await storedFrame(sql, trial);
  return packFrame(sql, rendered, origin, { id: run!.id, picture: run!.picture, frame }, { filtering, neighbours });
}
