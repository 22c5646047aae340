import { inPage, OF_TRIAL, shownValues } from '@/core/comp';
import { layersNamed, type OpenedFilm } from '@/core/cut';
import { displayOf, encodePng, exposureScale } from '@/core/image';
import { COMP, filesOfFrame, parseFrames, type RunFile } from '@/core/runs';
import { nodeInflate } from '@/node/zlib';
import { type CompMade, compFile, compFrame, type TakenFilm, trialsIn } from '@/render/node/comp-frame';
import { denoisedFrame, type Filtering } from '@/render/node/denoised-frame';
import type { FilmOrigin } from '@/render/node/film-exr';
import { frameFiles, openedFrame } from '@/render/node/frame-files';
import type { RenderedFrame } from '@/render/node/rendered-frame';
import type { Neighbour } from '@/render/pool/denoise-frame';
import { Besides } from '@/render/views/besides';
import type { FilmOf } from '@/render/views/film-of';
import { unscaled } from '@/render/views/stack';
import type { Sql } from '../db/connection';
import { isId } from '../db/ids';
import type { PackedFile } from '../db/run-files';
import { runOfFrame } from '../db/runs';
import { trialById } from '../db/trials';
import { getBlob, putStream } from '../storage/blobs';
import { readLayers } from './open';
import { shrunk } from './pictures';
import { bytesOf } from './shown';

/** What was packed of a frame, and its small picture where that is the stack's. */
export interface PackedFrame {
  files: PackedFile[];
  thumbnail: Uint8Array | null;
}

const kept = new WeakMap<Sql, Besides>();

/** Plates, tables and films of trials that stacks take, read once for many frames. */
function besidesOf(sql: Sql): Besides {
  const known = kept.get(sql);
  if (known) return known;
  const film = async ({ film: hash }: FilmOf, names: readonly string[]) => {
    const read = hash && (await readLayers(sql, hash, (n) => names.includes(n)));
    if (!read) throw new Error('a film that the stack takes is not there any more');
    return read;
  };
  const content = async (hash: string) => {
    const bytes = await getBlob(sql, hash);
    if (!bytes) throw new Error(`content ${hash.slice(0, 12)} of the stack is not there`);
    return bytes;
  };
  const made = new Besides({ film }, content, nodeInflate);
  kept.set(sql, made);
  return made;
}

/** Films of finished trials that a stack takes, by where it says that they are; those that are not there are left out. */
async function filmsIn(sql: Sql, trials: readonly string[]): Promise<Map<string, FilmOf>> {
  const found = new Map<string, FilmOf>();
  for (const id of trials) {
    const trial = isId(id) ? await trialById(sql, id) : null;
    if (trial?.film) found.set(`${OF_TRIAL}${id}`, { id, film: trial.film, denoised: null });
  }
  return found;
}

/**
 * Packs the files of a frame of a run, denoised where its recipe asks for that, from `opened` where its film was kept, the stack's picture also of films of variants (`taken`), and keeps them until they are put into the run's folder: a worker may be on another machine
 * than that.
 */
export async function packFrame(
  sql: Sql,
  rendered: RenderedFrame,
  origin: FilmOrigin,
  { id, picture, frame }: { id: string; picture: number; frame: number },
  {
    filtering,
    neighbours = [],
    opened = openedFrame(rendered, origin),
    taken = new Map(),
  }: {
    filtering: Filtering | null;
    neighbours?: readonly Neighbour[];
    opened?: OpenedFilm;
    taken?: ReadonlyMap<string, TakenFilm>;
  },
): Promise<PackedFrame> {
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
  const { recipe, outputs, stack, comp } = run;
  const of = { document, recipe, outputs, comp: comp && { stack, as: comp } };
  const own = filesOfFrame(of, names, frame).files[picture];
  const made = await denoisedFrame(rendered, origin, filtering, neighbours);
  const files: PackedFile[] = [];
  const keep = async ({ name, output, layers }: RunFile, bytes: AsyncIterable<Uint8Array> | Iterable<Uint8Array>) => {
    const put = await putStream(sql, bytes);
    files.push({ name, output, layers, bytes: put.bytes, hash: put.hash });
  };
  const plain = own.filter((f) => f.output !== COMP);
  for await (const { file, stream } of frameFiles(opened, origin, outputs, plain, made)) await keep(file, stream.bytes);
  const last = own.find((f) => f.output === COMP);
  if (!last || !comp) return { files, thumbnail: null };
  const there = await filmsIn(sql, trialsIn(stack));
  const read = (layers: readonly string[]) => layersNamed(opened, made, layers);
  const by = { ...run, masks: outputs.masks };
  const shown = await compFrame(read, rendered.spec, origin, by, besidesOf(sql), there, taken);
  await keep(last, [await compFile(shown, comp, origin, opened.parts[0])]);
  return { files, thumbnail: small(shown, origin) };
}

/** The small picture of what a stack made, as the page shows it. */
function small({ picture, stack, tables }: CompMade, { camera, scene }: FilmOrigin): Uint8Array {
  const display = unscaled(displayOf(camera.exposure, scene.document.look), exposureScale(camera.exposure));
  const { planes, width, height } = shrunk(picture.planes, picture.width, picture.height);
  const [r, g, b, a] = planes;
  const values = shownValues({ width, height, planes: [r, g, b, a] }, inPage(stack), display, (n) => tables.get(n));
  return encodePng(width, height, bytesOf(values), 3);
}
