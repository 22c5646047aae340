import { execFileSync } from 'node:child_process';
import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newMovieSchema } from '@/contract/movie';
import { type NewRun, newRunSchema } from '@/contract/run';
import { parseStack } from '@/core/comp';
import { displayOf } from '@/core/image';
import { parseOutputs } from '@/core/outputs';
import type { Sql } from '../db/connection';
import { framesDone, movieById, moviesOf, noteMovie, removeMovie, takeMovie } from '../db/movies';
import { waitingFiles } from '../db/run-files';
import { runById } from '../db/runs';
import { draftOf, saveDraft, shotById } from '../db/shots';
import { shownFrame } from '../films/shown';
import { askMovie, movieResponse, rangeOf } from '../http/movies';
import { startRun } from '../http/runs';
import { seedShot, smallRecipe, smallScene, testDatabase } from '../testing';
import { makeMovie } from './movies';
import { placeFile } from './place';
import { sendingQueue, type TrialQueue } from './queue';
import { testStudio } from './testing';
import { TrialRunner } from './trial';

let sql: Sql;
let close: () => Promise<void>;
let shot: string;
let queue: TrialQueue;
let folder: string;
const never = new AbortController().signal;
const [WIDTH, HEIGHT] = [26, 24];

beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_movies'));
  const scene = smallScene();
  scene.document.frames = { first: 1, last: 12, perSecond: 24 };
  ({ shot } = await seedShot(sql, scene));
  queue = await sendingQueue(sql);
  folder = await mkdtemp(join(tmpdir(), 'lantern-movies-'));
  process.env.LANTERN_DELIVERED = folder;
  const { version } = (await draftOf(sql, shot))!;
  const recipe = smallRecipe(4, WIDTH);
  const outputs = parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty'] }] });
  // Twice the light: not to be mistaken for the beauty.
  const source = { from: 'film', film: 'shown', layer: 'beauty', alpha: 'whole' };
  const stack = parseStack({
    schema: 1,
    films: { shown: 'A' },
    entries: [
      { kind: 'layer', name: 'beauty', source },
      { kind: 'operation', name: 'up', operation: { does: 'exposure', stops: 1 } },
    ],
  });
  await saveDraft(sql, shot, version, {
    recipe: { ...recipe, size: { ...recipe.size, width: WIDTH, height: HEIGHT } },
    outputs,
    stack,
  });
});
afterAll(async () => {
  await queue.close();
  await rm(folder, { recursive: true });
  await close();
});

/** Starts a run, renders so many of its frames, and puts their files into its folder. */
async function delivered(asked: Partial<NewRun>, most = 100): Promise<string> {
  const row = (await shotById(sql, shot))!;
  const id = await startRun(sql, row, newRunSchema.parse({ frames: '1-4', camera: 'cam', order: 'rising', ...asked }));
  const runner = new TrialRunner(sql, testStudio(sql), async () => {}, 'skerry', null);
  for (let n = 0; n < most; n++) {
    const job = await queue.take();
    if (!job) break;
    await runner.run((job.data as { trial: string }).trial, never);
    await queue.done(job);
  }
  for (const f of await waitingFiles(sql, 50)) await placeFile(sql, f);
  return id;
}

async function ask(run: string, asked: object): Promise<string> {
  return askMovie(sql, (await runById(sql, run))!, newMovieSchema.parse({ shows: 'beauty', rate: 24, ...asked }));
}

/** Makes the movie that waits longest. */
async function make(): Promise<void> {
  await makeMovie(sql, (await takeMovie(sql))!, never);
}

/** Mean of R, G and B of a movie's frames, as ffmpeg decodes it. */
function means(path: string, count: number): number[] {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-']);
  const size = raw.length / count;
  return Array.from({ length: count }, (_, i) => {
    const own = raw.subarray(i * size, (i + 1) * size);
    return own.reduce((a, v) => a + v, 0) / size;
  });
}

test('the frames of a run become a movie beside its files: all of them, read back; it is brighter where the stack is', async () => {
  const id = await delivered({ comp: 'png' });
  const run = (await runById(sql, id))!;
  const first = await ask(id, {});
  const second = await ask(id, { shows: 'comp', codec: 'vp9', rate: 12 });
  await make();
  await make();
  const names = ['test-shot-run01-comp.webm', 'test-shot-run01.webm'];
  expect((await readdir(run.folder)).filter((n) => n.endsWith('webm')).sort()).toEqual(names);
  const facts = { width: WIDTH, height: HEIGHT, frames: 4, held: 0 };
  expect(await movieById(sql, first)).toMatchObject({
    state: 'done',
    name: names[1],
    facts: { ...facts, codec: 'av1', rate: 24, seconds: expect.closeTo(4 / 24, 2) },
  });
  expect(await movieById(sql, second)).toMatchObject({ name: names[0], facts: { ...facts, codec: 'vp9', rate: 12 } });
  const [beauty, stack] = [names[1], names[0]].map((n) => means(join(run.folder, n), 4));
  const { document } = smallScene();
  const display = displayOf(document.cameras[0].exposure, document.look);
  const [frame] = await framesDone(sql, id, 0);
  const shown = (await shownFrame(sql, frame, 'beauty', { display, stack: null }))!;
  const mean = shown.rgb.reduce((a, v) => a + v, 0) / shown.rgb.length;
  expect(Math.abs(beauty[0] - mean)).toBeLessThan(3);
  expect(stack[0]).toBeGreaterThan(beauty[0] * 1.1);
  // Another one never takes the place of what is there.
  await ask(id, {});
  await make();
  expect((await moviesOf(sql, id))[0].name).toBe('test-shot-run01-2.webm');
});

test('frames that are not there stand still, and are told; what has none is refused', async () => {
  const id = await delivered({ frames: '1-4' }, 0);
  await expect(ask(id, {})).rejects.toThrow('no frame is done yet');
  await expect(ask(id, { shows: 'comp' })).rejects.toThrow('delivers nothing of the stack');
  await expect(ask(id, { picture: 3 })).rejects.toThrow('the run has 1 pictures');
  await queue.take().then((job) => queue.done(job!));
  // The second and the third frame are rendered, the first and the last are not.
  const runner = new TrialRunner(sql, testStudio(sql), async () => {}, 'skerry', null);
  for (let n = 0; n < 2; n++) {
    const job = (await queue.take())!;
    await runner.run((job.data as { trial: string }).trial, never);
    await queue.done(job);
  }
  await ask(id, {});
  await make();
  const [movie] = await moviesOf(sql, id);
  expect(movie).toMatchObject({ state: 'done', facts: { frames: 4, held: 2 } });
});

test('a maker that is gone is followed by another; what nobody wants any more is given up', async () => {
  const id = await delivered({ frames: '5-6' });
  await ask(id, {});
  const taken = (await takeMovie(sql))!;
  expect(await takeMovie(sql)).toBeNull();
  await sql`update movie set seen_at = now() - interval '1 minute' where id = ${taken.id}`;
  expect((await takeMovie(sql))!.id).toBe(taken.id);
  await removeMovie(sql, taken.id);
  expect(await noteMovie(sql, taken.id, 0.5)).toBe(false);
  await expect(makeMovie(sql, taken, never)).rejects.toThrow();
  const run = (await runById(sql, id))!;
  expect((await readdir(run.folder)).filter((n) => n.includes('webm'))).toEqual([]);
});

test('a movie is sent whole or by pieces', async () => {
  expect(rangeOf(null, 10)).toBeNull();
  expect(rangeOf('bytes=0-', 10)).toEqual({ from: 0, to: 9 });
  expect(rangeOf('bytes=3-5', 10)).toEqual({ from: 3, to: 5 });
  expect(rangeOf('bytes=-4', 10)).toEqual({ from: 6, to: 9 });
  expect(() => rangeOf('bytes=10-', 10)).toThrow('the file has 10 bytes');
  const run = { ...(await runById(sql, await delivered({ frames: '7' })))! };
  await writeFile(join(run.folder, 'm.webm'), Buffer.from('0123456789'));
  const movie = { name: 'm.webm' } as Parameters<typeof movieResponse>[0]['movie'];
  const sent = (headers: Record<string, string>) =>
    movieResponse({ movie, run }, new Request('http://127.0.0.1/', { headers }));
  const piece = await sent({ range: 'bytes=2-4' });
  expect([piece.status, await piece.text(), piece.headers.get('content-range')]).toEqual([206, '234', 'bytes 2-4/10']);
  const whole = await sent({});
  expect([whole.status, await whole.text()]).toEqual([200, '0123456789']);
});
