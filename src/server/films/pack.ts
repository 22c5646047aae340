import type { Film } from '@/core/film';
import { filesOfFrame, parseFrames } from '@/core/runs';
import { frameFiles, openedFilm } from '@/render/node/frame-files';
import type { Sql } from '../db/connection';
import type { PackedFile } from '../db/run-files';
import { runOfFrame } from '../db/runs';
import { putStream } from '../storage/blobs';
import type { MeasuredFilm } from './store';

/**
 * Packs the files of a frame of a run and keeps them until they are put into the run's folder: a worker may be on another machine
 * than that.
 */
export async function packFrame(
  sql: Sql,
  film: Film,
  { origin }: MeasuredFilm,
  { id, picture, frame }: { id: string; picture: number; frame: number },
): Promise<PackedFile[]> {
  const run = await runOfFrame(sql, id);
  const { document } = origin.scene;
  const frames = parseFrames(run.frames);
  const names = {
    shot: run.name,
    recipe: run.recipe.name,
    camera: run.camera,
    frames: { first: frames[0], last: frames[frames.length - 1] },
    trial: run.number,
    date: new Date(run.createdAt),
  };
  const { files } = filesOfFrame({ document, recipe: run.recipe, outputs: run.outputs }, names, frame);
  const packed: PackedFile[] = [];
  for await (const { file, stream } of frameFiles(openedFilm(film, origin), origin, run.outputs, files[picture])) {
    const { hash, bytes } = await putStream(sql, stream.bytes);
    packed.push({ name: file.name, output: file.output, layers: file.layers, bytes, hash });
  }
  return packed;
}
