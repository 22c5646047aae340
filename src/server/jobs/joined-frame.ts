import type { OpenedFilm } from '@/core/cut';
import { isNeeded } from '@/core/denoise';
import { variantOf } from '@/core/outputs';
import { canonicalJson } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import type { Filtering } from '@/render/node/denoised-frame';
import type { FilmOrigin } from '@/render/node/film-exr';
import { openedKept } from '@/render/node/frame-files';
import type { RenderedFrame } from '@/render/node/rendered-frame';
import type { Sql } from '../db/connection';
import type { TrialRow } from '../db/trials';
import { framesToJoin } from '../films/denoised';
import { openFilm, readLayers } from '../films/open';
import { type PackedFrame, packFrame } from '../films/pack';
import type { Studio } from './studio';

/** A frame whose film was stored: as denoising takes it, and as it lies there. */
async function storedFrame(sql: Sql, { film, spec }: TrialRow): Promise<{ frame: RenderedFrame; opened: OpenedFilm }> {
  const read = film && spec && (await readLayers(sql, film, isNeeded));
  const opened = film && (await openFilm(sql, film));
  if (!read || !opened) throw new Error('the film is not there any more');
  return { frame: { spec, layer: (name) => read.layers.get(name)! }, opened: openedKept(opened) };
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
  const stored = await storedFrame(sql, trial);
  const { opened } = stored;
  const place = { id: run!.id, picture: run!.picture, frame };
  return packFrame(sql, stored.frame, origin, place, { filtering, neighbours, opened });
}
