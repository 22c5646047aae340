import { layersNamed, type OpenedFilm } from '@/core/cut';
import { isNeeded } from '@/core/denoise';
import { layerNames } from '@/core/film';
import { variantOf } from '@/core/outputs';
import { takenPictures } from '@/core/runs';
import type { Scene } from '@/core/scene';
import { documentHash } from '@/node/hash';
import type { TakenFilm } from '@/render/node/comp-frame';
import { denoisedFrame, type Filtering } from '@/render/node/denoised-frame';
import type { FilmOrigin } from '@/render/node/film-exr';
import { openedKept } from '@/render/node/frame-files';
import type { RenderedFrame } from '@/render/node/rendered-frame';
import type { Sql } from '../db/connection';
import { runOfFrame } from '../db/runs';
import { type TrialRow, trialById } from '../db/trials';
import { sameFrame } from '../db/waiting-frames';
import { framesToJoin } from '../films/denoised';
import { openFilm, readLayers } from '../films/open';
import { type PackedFrame, packFrame } from '../films/pack';
import type { Studio } from './studio';

/** A frame whose film was stored: as denoising takes it, and as it lies there. */
async function storedFrame(
  sql: Sql,
  { film, spec, recipe }: TrialRow,
): Promise<{ frame: RenderedFrame; opened: OpenedFilm }> {
  const opened = film && (await openFilm(sql, film));
  const read = film && recipe.denoise.on ? await readLayers(sql, film, isNeeded) : null;
  if (!spec || !opened) throw new Error('the film is not there any more');
  return { frame: { spec, layer: (name) => read!.layers.get(name)! }, opened: openedKept(opened) };
}

function originOf(
  { recipe, recipeHash, outputs, frame, noise, seconds, camera: name }: TrialRow,
  scene: Scene,
  version: string,
): FilmOrigin {
  const camera = scene.document.cameras.find((c) => c.name === name);
  if (!camera) throw new Error(`the scene has no camera ${name}`);
  return {
    ...{ scene, camera, frame: frame!, recipe, recipeHash, variant: variantOf(outputs), version },
    sceneHash: documentHash(scene.document),
    noisePercent: noise?.rms ?? null,
    traceSeconds: seconds?.trace ?? 0,
  };
}

const neighboursOf = async (sql: Sql, id: string, joins: boolean) =>
  joins ? (await framesToJoin(sql, id)).neighbours : [];

/** Films of the same frame in the variants that the stack takes, by where it says that they are, denoised where the frame is. */
async function takenFilms(
  sql: Sql,
  { run, frame }: TrialRow,
  scene: Scene,
  { filtering, version }: { filtering: Filtering | null; version: string },
): Promise<Map<string, TakenFilm>> {
  // The stack lies over the shot's own picture.
  if (run?.picture !== 0) return new Map();
  const { recipe, outputs, comp, stack } = await runOfFrame(sql, run.id);
  const { document } = scene;
  const taken = takenPictures({ document, recipe, outputs, comp: comp && { stack, as: comp } });
  const films = new Map<string, TakenFilm>();
  for (const [where, picture] of taken) {
    const id = await sameFrame(sql, run.id, frame!, picture);
    const trial = id ? await trialById(sql, id) : null;
    if (!trial?.film) throw new Error(`the stack takes ${where}, which has not come about at this frame`);
    const stored = await storedFrame(sql, trial);
    const { on, neighbours: joins } = trial.recipe.denoise;
    const neighbours = await neighboursOf(sql, trial.id, on && joins);
    const made = await denoisedFrame(stored.frame, originOf(trial, scene, version), filtering, neighbours);
    films.set(where, { kept: layerNames(stored.frame.spec), read: (names) => layersNamed(stored.opened, made, names) });
  }
  return films;
}

/** Packs the files of a frame of a run that was traced, when all that it is made of are there; `joins`: denoised joined with those beside it. */
export async function packWaiting(
  sql: Sql,
  studio: Studio,
  trial: TrialRow,
  filtering: Filtering | null,
  joins: boolean,
): Promise<PackedFrame> {
  const { id, run } = trial;
  const scene = await studio.sceneOf(trial.revision);
  const { frame, opened } = await storedFrame(sql, trial);
  const neighbours = await neighboursOf(sql, id, joins);
  const taken = await takenFilms(sql, trial, scene, { filtering, version: studio.version });
  const place = { id: run!.id, picture: run!.picture, frame: trial.frame! };
  const origin = originOf(trial, scene, studio.version);
  return packFrame(sql, frame, origin, place, { filtering, neighbours, opened, taken });
}
