import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { Movie } from '@/contract/movie';
import { type LookTable, readCube, type StackDocument, stackAt } from '@/core/comp';
import { type Display, displayOf, exposureScale } from '@/core/image';
import { parseFrames, runPictures } from '@/core/runs';
import { two } from '@/core/words';
import { folderWords, namesIn } from '@/node/folder';
import { readMovie, writeMovie } from '@/render/node/movie';
import { unscaled } from '@/render/views/stack';
import { isAway } from '../db/away';
import { announce, type Sql } from '../db/connection';
import { framesDone, noteMade, noteMovie, noteNotMade, takeMovie } from '../db/movies';
import { runById } from '../db/runs';
import { revisionById, shotById } from '../db/shots';
import { ofRun } from '../films/manifest';
import { type ShownFrame, type StackShown, shownFrame } from '../films/shown';
import { getBlob } from '../storage/blobs';
import { Bell } from './bell';

/** News of a run, as of a movie that is asked for. */
const asked = z.object({ type: z.literal('run'), frames: z.literal(false) });

const IDLE_MS = 3000;
const BEAT_MS = 1000;
/** Of the work, what decoding each frame again to count it takes about. */
const COUNTING = 0.08;
const MOST_NAMES = 999;

/** Nobody wants the movie any more. */
class GivenUp extends Error {}

/** A name that is free in the folder, of the shot, the run, and what is shown. */
async function freeName(folder: string, parts: readonly string[]): Promise<string> {
  const base = parts.filter((p) => p !== '').map((p) => p.replace(/[^A-Za-z0-9._-]+/g, '-'));
  const names = Array.from({ length: MOST_NAMES }, (_, i) => `${[...base, ...(i ? [i + 1] : [])].join('-')}.webm`);
  const taken = new Set(await namesIn(folder, names));
  const free = names.find((n) => !taken.has(n));
  if (!free) throw new Error(`${names[0]} and all names after it are taken in ${folder}`);
  return free;
}

/** How the page shows what a run's stack made: as its first frame has it, for a movie is of one screen. */
async function stackShown(sql: Sql, document: StackDocument, display: Display): Promise<StackShown> {
  const by = stackAt(document, 1);
  const tables = new Map<string, LookTable>();
  if (by.display.to === 'table') {
    const { table } = by.display;
    const bytes = await getBlob(sql, by.tables[table]);
    if (!bytes) throw new Error(`the look table ${table} is not there any more`);
    tables.set(table, readCube(new TextDecoder().decode(bytes)));
  }
  return { by, display, tables };
}

/** Makes a movie of the frames of a run that are done, beside its files, and reads it back. Throws in words. */
export async function makeMovie(sql: Sql, movie: Movie, closing: AbortSignal): Promise<void> {
  const run = await runById(sql, movie.run);
  const revision = run && (await revisionById(sql, run.revision));
  const shot = run && (await shotById(sql, run.shot));
  if (!run || !revision || !shot) throw new Error('the run is not there any more');
  const { document } = revision;
  const camera = document.cameras.find((c) => c.name === run.camera) ?? document.cameras[0];
  const display = displayOf(camera.exposure, document.look);
  const stack =
    run.comp === null ? null : await stackShown(sql, run.stack, unscaled(display, exposureScale(camera.exposure)));
  const as = { display, stack };
  const done = new Map((await framesDone(sql, run.id, movie.picture)).map((f) => [f.frame, f]));
  const wanted = parseFrames(run.frames);
  const read = async (frame: number): Promise<ShownFrame | null> => {
    const f = done.get(frame);
    return f ? shownFrame(sql, f, movie.shows, as) : null;
  };
  let first: ShownFrame | null = null;
  for (const frame of wanted) {
    first = await read(frame);
    if (first) break;
  }
  if (!first) throw new Error('none of its frames is there: a movie shows those that are done');
  const { width, height } = first;
  const stop = new AbortController();
  const end = () => stop.abort();
  closing.addEventListener('abort', end);
  let held = 0;
  let fraction = 0;
  let isGivenUp = false;
  // Told as often while the end is waited for, so that no other maker takes it up.
  const beat = setInterval(async () => {
    isGivenUp = !(await noteMovie(sql, movie.id, fraction).catch(() => true));
    if (isGivenUp) end();
    await announce(sql, { type: 'run', id: run.id, shot: run.shot, frames: false }).catch(() => {});
  }, BEAT_MS);
  async function* frames(): AsyncGenerator<Uint8Array> {
    let last = first!;
    for (const [i, frame] of wanted.entries()) {
      fraction = ((1 - COUNTING) * i) / wanted.length;
      const own = await read(frame);
      if (!own) held++;
      else if (own.width !== width || own.height !== height)
        throw new Error(`frame ${frame} has another size than the first`);
      last = own ?? last;
      yield last.rgb;
    }
  }
  const beside = join(run.folder, `.${movie.id}.webm`);
  try {
    await mkdir(run.folder, { recursive: true });
    await writeMovie(beside, { width, height, rate: movie.rate, codec: movie.codec }, frames(), stop.signal);
    const facts = await readMovie(beside);
    if (facts.frames !== wanted.length)
      throw new Error(`${facts.frames} frames are in the movie, ${wanted.length} were put into it`);
    if (!(await noteMovie(sql, movie.id, 1))) throw new GivenUp();
    const { variant } = runPictures(ofRun(run, document))[movie.picture] ?? { variant: null };
    const which = movie.shows === 'comp' ? 'comp' : variant === null ? '' : `picture${movie.picture + 1}`;
    const name = await freeName(run.folder, [shot.name, `run${two(run.number)}`, which]);
    const { size } = await stat(beside);
    await rename(beside, join(run.folder, name));
    await noteMade(sql, movie.id, name, { ...facts, bytes: size, held });
  } catch (error) {
    throw isGivenUp ? new GivenUp() : error;
  } finally {
    clearInterval(beat);
    closing.removeEventListener('abort', end);
    await rm(beside, { force: true });
  }
}

/** Makes movies that are asked for, one by one, on the machine that has the folders of runs, until it is told to end. */
export async function serveMovies(sql: Sql, signal: AbortSignal): Promise<void> {
  const bell = await Bell.hung(sql, signal, (news) => asked.safeParse(news).success);
  while (!signal.aborted) {
    const movie = await takeMovie(sql).catch(() => null);
    if (movie) {
      try {
        await makeMovie(sql, movie, signal);
      } catch (error) {
        // One that is given up is gone; one that was cut short is taken up again.
        if (!(error instanceof GivenUp) && !signal.aborted && !isAway(error))
          await noteNotMade(sql, movie.id, folderWords(error, 'its folder')).catch(() => {});
      }
      const run = await runById(sql, movie.run).catch(() => null);
      if (run) await announce(sql, { type: 'run', id: run.id, shot: run.shot, frames: false }).catch(() => {});
      continue;
    }
    if (signal.aborted) break;
    await bell.wait(IDLE_MS);
  }
  await bell.close();
}
