import { readFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type NewRun, newRunSchema } from '@/contract/run';
import { exposureScale } from '@/core/image';
import { parseOutputs } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { spawnInline } from '@/render/pool/spawn-inline';
import type { Sql } from '../db/connection';
import { editRun, framesOfRun, runById } from '../db/runs';
import { draftOf, saveDraft, shotById } from '../db/shots';
import { trialById } from '../db/trials';
import { standingOf } from '../db/waiting-frames';
import { openFilm } from '../films/open';
import { againOf, startRun } from '../http/runs';
import { seedShot, smallRecipe, smallScene, testDatabase } from '../testing';
import { sendingQueue, type TrialQueue } from './queue';
import { testStudio } from './testing';
import { TrialRunner } from './trial';

let sql: Sql;
let close: () => Promise<void>;
let shot: string;
let queue: TrialQueue;
let folder: string;
const filter = new WebAssembly.Module(readFileSync(join(__dirname, '../../../public/wasm/denoise.wasm')));
const OUTPUTS = parseOutputs({
  list: [{ id: 'a', name: 'main', layers: ['beauty', 'coverage', 'depth', 'group.*'], depth: 'float' }],
});
const joined = parseRecipe({
  ...smallRecipe(2, 16),
  denoise: { on: true, strength: 100, neighbours: true },
  film: { guides: true, features: ['alpha', 'depth', 'normal', 'albedo', 'coverage'] },
});

const VARIED = parseOutputs({
  list: [
    { id: 'a', name: 'main', layers: ['beauty'], depth: 'float' },
    { id: 'b', name: 'skyless', layers: ['beauty'], depth: 'float', variant: { 'scope.sky': false } },
  ],
});
/** The picture less that of a variant, and a third of it. */
const lit = (film: string, way: string, opacity: number) => ({
  kind: 'layer',
  ...{ way, opacity },
  source: { from: 'film', film, layer: 'beauty', alpha: 'whole' },
});
const LESS = {
  schema: 1,
  films: { shown: 'A', less: 'variant:skyless' },
  entries: [lit('shown', 'over', 1), lit('less', 'subtract', 1), lit('less', 'add', 0.25)],
};

beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_joined'));
  const scene = smallScene();
  scene.document.frames = { first: 1, last: 12, perSecond: 24 };
  ({ shot } = await seedShot(sql, scene));
  (globalThis as { lanternSql?: Sql }).lanternSql = sql;
  queue = await sendingQueue(sql);
  folder = await mkdtemp(join(tmpdir(), 'lantern-joined-'));
  process.env.LANTERN_DELIVERED = folder;
});
afterAll(async () => {
  await queue.close();
  await rm(folder, { recursive: true });
  await close();
});

const start = async (recipe = joined, asked: Partial<NewRun> = {}, outputs = OUTPUTS) => {
  const { version } = (await draftOf(sql, shot))!;
  await saveDraft(sql, shot, version, { recipe, outputs, stack: LESS });
  const sent = newRunSchema.parse({ frames: '1-3', camera: 'cam', order: 'rising', ...asked });
  return startRun(sql, (await shotById(sql, shot))!, sent);
};

/** Works at jobs that wait: of each the frame and the state that it is in after it; `queued` is one that nothing keeps from being packed. */
async function work(most = 100): Promise<string[]> {
  const filtering = { module: filter, spawn: spawnInline, threads: 1 };
  const runner = new TrialRunner(sql, testStudio(sql), async () => {}, 'skerry', filtering, queue.addFrames);
  const came: string[] = [];
  for (let n = 0; n < most; n++) {
    const job = await queue.take();
    if (!job) break;
    const id = (job.data as { trial: string }).trial;
    await runner.run(id, new AbortController().signal);
    await queue.done(job);
    const { frame, state } = (await trialById(sql, id))!;
    came.push(`${frame} ${state}`);
  }
  return came;
}

const filesOf = (run: string) =>
  sql`select t.frame, f.hash from run_file f join trial t on t.id = f.trial_id where f.run_id = ${run} order by 1`;
const filmsOf = async (run: string) => {
  const rows = await sql<{ frame: number }[]>`
    select frame from trial where run_id = ${run} and film is not null order by 1`;
  return rows.map((r) => r.frame);
};
const remove = (run: string) => editRun(sql, run, { removed: true }, queue.addFrames, queue.takeBack);

test('frames wait for those beside them without holding up the queue, and are packed as soon as they are there', async () => {
  const run = await start();
  expect(await work(1)).toEqual(['1 waiting']);
  expect((await runById(sql, run))!.counts).toMatchObject({ all: 3, done: 0, busy: 0 });
  expect(await work()).toEqual(['2 waiting', '1 done', '3 queued', '2 done', '3 done']);
  expect((await runById(sql, run))!.counts).toMatchObject({ all: 3, done: 3, failed: 0 });
  // Films that nobody waits for any more are let go.
  expect(await filmsOf(run)).toEqual([]);
  const [{ layers }] = await sql<{ layers: number }[]>`select count(*)::int as layers from film_layer`;
  expect(layers).toBe(0);
  const files = await filesOf(run);
  expect(files).toHaveLength(3);
  const other = await start(joined, { order: 'ends', keepsFilms: true });
  await work();
  expect(await filesOf(other)).toEqual(files);
  expect(await filmsOf(other)).toEqual([1, 2, 3]);
  const apart = await start(parseRecipe({ ...joined, denoise: { ...joined.denoise, neighbours: false } }));
  expect((await work()).every((w) => w.endsWith('done'))).toBe(true);
  const alone = await filesOf(apart);
  for (const [i, { hash }] of alone.entries()) expect(hash).not.toBe(files[i].hash);
  for (const id of [run, other, apart]) await remove(id);
});

test('a frame that is rendered again gets those beside it once more, and comes to the same file', async () => {
  const run = await start();
  await work();
  const files = await filesOf(run);
  const row = (await runById(sql, run))!;
  const [, second] = await framesOfRun(sql, run);
  expect(await againOf(sql, row, { which: [second.id], urgent: false })).toBe(1);
  expect(await standingOf(sql, second.id)).toMatchObject({ joins: true, traced: false, forOthers: false });
  expect(await work()).toEqual(['1 done', '2 waiting', '3 done', '2 done']);
  expect(await filesOf(run)).toEqual(files);
  expect(await filmsOf(run)).toEqual([]);
  await remove(run);
});

test('one that fails holds up nobody beside it', async () => {
  const run = await start();
  const [, second] = await framesOfRun(sql, run);
  await sql`update trial set attempts = 5 where id = ${second.id}`;
  expect(await work()).toEqual(['1 waiting', '2 failed', '1 done', '3 queued', '3 done']);
  expect(await filmsOf(run)).toEqual([]);
  await remove(run);
});

test('a run that is ended while frames wait goes on with them', async () => {
  const run = await start();
  expect(await work(2)).toEqual(['1 waiting', '2 waiting']);
  await editRun(sql, run, { state: 'stopped' }, queue.addFrames, queue.takeBack);
  expect(await work()).toEqual([]);
  expect((await runById(sql, run))!.counts).toMatchObject({ left: 3 });
  await editRun(sql, run, { state: 'on' }, queue.addFrames, queue.takeBack);
  expect(await work()).toEqual(['1 done', '3 queued', '2 done', '3 done']);
  await remove(run);
});

test('frames that stand alone in their run wait for nobody', async () => {
  const run = await start(joined, { frames: '1-3x2' });
  expect(await work()).toEqual(['1 queued', '1 done', '3 queued', '3 done']);
  await remove(run);
});

/** Planes of what a run delivered of a frame for an output. */
async function delivered(run: string, frame: number, output: string): Promise<Map<string, Float32Array>> {
  const [{ hash }] = await sql<{ hash: string }[]>`
    select f.hash from run_file f join trial t on t.id = f.trial_id
    where f.run_id = ${run} and t.frame = ${frame} and f.output = ${output}`;
  const film = (await openFilm(sql, hash))!;
  const planes = await film.read(0);
  return new Map(film.parts[0].channels.map((c, i) => [c.name, planes[i] as Float32Array]));
}

/** Most by which what the stack made differs from the files of the pictures that it takes. */
async function differs(run: string, frame: number): Promise<number> {
  const [comp, main, skyless] = await Promise.all(['comp', 'main', 'skyless'].map((o) => delivered(run, frame, o)));
  const scale = exposureScale(smallScene().document.cameras[0].exposure);
  let most = 0;
  for (const c of ['R', 'G', 'B'])
    comp.get(c)!.forEach((v, i) => {
      const wanted = scale * (main.get(c)![i] - 0.75 * skyless.get(c)![i]);
      most = Math.max(most, Math.abs(v - wanted) / (0.01 + Math.abs(wanted)));
    });
  return most;
}

describe('variants that the stack takes', () => {
  const plain = parseRecipe({ ...smallRecipe(2, 16) });
  const asked = { frames: '1-2', comp: 'exr' } as const;

  test('are rendered first, and the picture of the stack is made of both', async () => {
    const run = await start(plain, asked, VARIED);
    expect(await work()).toEqual(['1 waiting', '1 done', '1 done', '2 waiting', '2 done', '2 done']);
    for (const frame of [1, 2]) expect(await differs(run, frame)).toBeLessThan(1e-5);
    expect(await filmsOf(run)).toEqual([]);
    const files = await filesOf(run);
    expect(files).toHaveLength(6);
    // Rendered again, it asks for the variant's film once more.
    const own = (await framesOfRun(sql, run)).find((f) => f.frame === 2 && f.picture === 0)!;
    await againOf(sql, (await runById(sql, run))!, { which: [own.id], urgent: false });
    expect(await work()).toEqual(['2 waiting', '2 done', '2 done']);
    expect(new Set((await filesOf(run)).map((f) => f.hash))).toEqual(new Set(files.map((f) => f.hash)));
    expect(await filmsOf(run)).toEqual([]);
    await remove(run);
  });

  test('are denoised and joined as the picture is', async () => {
    const run = await start(joined, { ...asked, frames: '1-3' }, VARIED);
    const came = await work();
    expect(came.filter((c) => c.endsWith('done'))).toHaveLength(6);
    for (const frame of [1, 2, 3]) expect(await differs(run, frame)).toBeLessThan(1e-5);
    expect(await filmsOf(run)).toEqual([]);
    await remove(run);
  });

  test('one that fails is told by the frame that lacks it', async () => {
    const run = await start(plain, asked, VARIED);
    const variant = (await framesOfRun(sql, run)).find((f) => f.frame === 1 && f.picture === 1)!;
    await sql`update trial set attempts = 5 where id = ${variant.id}`;
    await work();
    const own = (await framesOfRun(sql, run)).find((f) => f.frame === 1 && f.picture === 0)!;
    expect(own).toMatchObject({ state: 'failed', fault: expect.stringMatching(/the stack takes variant:skyless/) });
    expect((await runById(sql, run))!.counts).toMatchObject({ done: 2, failed: 2 });
    // Both are rendered again by one order.
    await againOf(sql, (await runById(sql, run))!, { which: 'failed', urgent: false });
    await work();
    expect((await runById(sql, run))!.counts).toMatchObject({ done: 4, failed: 0 });
    expect(await differs(run, 1)).toBeLessThan(1e-5);
    await remove(run);
  });
});
