import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, readFile, rm, unlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type NewRun, newRunSchema } from '@/contract/run';
import { NO_STACK, parseStack } from '@/core/comp';
import { fromBytes, layersInFile, layersOf, readHeaders, readPart } from '@/core/exr';
import { tally } from '@/core/film';
import { parseOutputs } from '@/core/outputs';
import { withSetting } from '@/core/recipe';
import { manifestSchema, verifyFiles } from '@/core/runs';
import { fileHash } from '@/node/folder';
import { nodeInflate } from '@/node/zlib';
import { BANDS } from '@/render/node/rendered-frame';
import { spawnInline } from '@/render/pool/spawn-inline';
import type { Sql } from '../db/connection';
import { waitingFiles } from '../db/run-files';
import { editRun, framesOfRun, listRuns, runById } from '../db/runs';
import { draftOf, saveDraft, shotById } from '../db/shots';
import { listTrials, trialById } from '../db/trials';
import { zipOfRun } from '../films/zip';
import { Refusal } from '../http/respond';
import { againOf, roomFor, startRun } from '../http/runs';
import { checkBudget } from '../http/sent-trial';
import { seedShot, smallRecipe, smallScene, testDatabase } from '../testing';
import { placeFile, writeManifest } from './place';
import { sendingQueue, type TrialQueue } from './queue';
import { testRunner, testStudio } from './testing';
import { TrialRunner } from './trial';

let sql: Sql;
let close: () => Promise<void>;
let shot: string;
let queue: TrialQueue;
let folder: string;
const never = new AbortController().signal;

/** Two outputs of the picture and one of another without its environment. */
const OUTPUTS = parseOutputs({
  list: [
    { id: 'a', name: 'main', layers: ['beauty', 'alpha', 'group.*'] },
    { id: 'b', name: 'ball', layers: ['mask.ball', 'depth'], depth: 'float' },
    { id: 'c', name: 'bulb', layers: ['beauty'], variant: { 'scope.lights': [{ kind: 'group', name: 'bulb' }] } },
  ],
  masks: [{ name: 'ball', of: [{ kind: 'material', name: 'ball' }] }],
});

beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_runs'));
  const scene = smallScene();
  scene.document.frames = { first: 1, last: 12, perSecond: 24 };
  ({ shot } = await seedShot(sql, scene));
  (globalThis as { lanternSql?: Sql }).lanternSql = sql;
  queue = await sendingQueue(sql);
  folder = await mkdtemp(join(tmpdir(), 'lantern-runs-'));
  process.env.LANTERN_DELIVERED = join(folder, 'deliveries');
  const { version } = (await draftOf(sql, shot))!;
  await saveDraft(sql, shot, version, { recipe: smallRecipe(4, 24), outputs: OUTPUTS });
});
afterAll(async () => {
  await queue.close();
  await rm(folder, { recursive: true });
  await close();
});

const start = async (asked: Partial<NewRun>) =>
  startRun(sql, (await shotById(sql, shot))!, newRunSchema.parse({ frames: '1-3', camera: 'cam', ...asked }));

const filter = new WebAssembly.Module(readFileSync(join(__dirname, '../../../public/wasm/denoise.wasm')));

/** Renders what is in the queue, in its order; the frames as they came. */
async function work(most = 100): Promise<string[]> {
  const filtering = { module: filter, spawn: spawnInline, threads: 1 };
  const runner = new TrialRunner(sql, testStudio(sql), async () => {}, 'skerry', filtering);
  const came: string[] = [];
  for (let n = 0; n < most; n++) {
    const job = await queue.take();
    if (!job) break;
    const id = (job.data as { trial: string }).trial;
    await runner.run(id, never);
    await queue.done(job);
    const trial = await trialById(sql, id);
    came.push(`${trial?.frame}${'abc'[trial?.run?.picture ?? 2]}`);
  }
  return came;
}

async function place(): Promise<void> {
  for (let waiting = await waitingFiles(sql, 50); waiting.length > 0; waiting = await waitingFiles(sql, 50))
    for (const f of waiting) await placeFile(sql, f);
}

const refused = (promise: Promise<unknown>) =>
  promise.then(
    () => null,
    (e) => (e instanceof Refusal ? `${e.code}: ${e.message}` : Promise.reject(e)),
  );

test('a run delivers every file of every frame once, under the names that were told, in first, middle, last order', async () => {
  const id = await start({ frames: '1-4,9' });
  expect(await work()).toEqual(['1a', '1b', '3a', '3b', '9a', '9b', '2a', '2b', '4a', '4b']);
  const packed = (await runById(sql, id))!;
  expect(packed).toMatchObject({
    counts: { all: 10, done: 10, failed: 0, left: 0, busy: 0 },
    files: { packed: 15, placed: 0 },
  });
  expect(packed.endedAt).not.toBeNull();
  await place();
  await writeManifest(sql, id, 'test');
  const run = (await runById(sql, id))!;
  expect(run.folder).toBe(join(folder, 'deliveries', 'test-shot-run01'));
  const there = (await readdir(run.folder)).sort();
  const names = ['main', 'ball', 'bulb'].flatMap((o) => [1, 2, 3, 4, 9].map((f) => `test-shot_${o}_01.000${f}.exr`));
  expect(there).toEqual(['manifest.json', ...names].sort());
  // What was kept until it lay there is kept no longer, nor any film.
  const [{ blobs }] = await sql<{ blobs: number }[]>`select count(*)::int as blobs from blob`;
  expect(blobs).toBe(1);
  const manifest = manifestSchema.parse(JSON.parse(await readFile(join(run.folder, 'manifest.json'), 'utf8')));
  expect(manifest).toMatchObject({ shot: 'test-shot', run: 1, frames: '1-4,9', complete: true });
  expect(manifest.files.map((f) => f.name).sort()).toEqual([...names].sort());
  expect(manifest.rendered.filter((r) => r.variant !== null)).toHaveLength(5);
  expect(await verifyFiles(manifest, (name) => fileHash(join(run.folder, name)))).toEqual([]);
  const file = await readHeaders(fromBytes(await readFile(join(run.folder, names[0]))));
  expect(layersInFile(file.parts).map((l) => l.name)).toEqual(['alpha', 'beauty', 'group.bulb', 'group.sky']);
  // What is only a run's is in no logbook.
  expect((await listTrials(sql, shot, null, 10)).total).toBe(0);
});

test('equal pictures are equal bytes, whoever renders them and when', async () => {
  const id = await start({ frames: '2-3' });
  await work();
  await place();
  const [, first] = await listRuns(sql, shot);
  const run = (await runById(sql, id))!;
  const bytes = async (r: { folder: string; number: number }) =>
    createHash('sha256')
      .update(await readFile(join(r.folder, `test-shot_main_0${r.number}.0002.exr`)))
      .digest('hex');
  expect(await bytes(run)).toBe(await bytes(first));
});

test('frames too large for the machine’s memory go in bands, to the same files', async () => {
  const rowsOf = (run: string) => sql`
    select t.frame, f.output, f.hash from run_file f join trial t on t.id = f.trial_id where f.run_id = ${run} order by 1, 2`;
  const whole = await start({ frames: '2' });
  await work();
  process.env.LANTERN_FILM_BYTES = '60000';
  try {
    const banded = await start({ frames: '2', keepsFilms: true });
    const left = await readdir(BANDS).catch(() => []);
    await work();
    expect(await rowsOf(banded)).toEqual(await rowsOf(whole));
    expect(await readdir(BANDS)).toEqual(left);
    const [frame] = await framesOfRun(sql, banded);
    const { film, figures } = (await trialById(sql, frame.id))!;
    expect(film).not.toBeNull();
    const [plain] = await framesOfRun(sql, whole);
    expect(figures!.noise).toEqual((await trialById(sql, plain.id))!.figures!.noise);
    expect([figures!.shares, (await trialById(sql, plain.id))!.figures!.shares === null]).toEqual([null, false]);
    await editRun(sql, banded, { removed: true }, queue.addFrames, queue.takeBack);
  } finally {
    Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
  }
  await editRun(sql, whole, { removed: true }, queue.addFrames, queue.takeBack);
});

test('what two runs packed alike is put into both folders, though the copy went with the first', async () => {
  const ids = [await start({ frames: '5' }), await start({ frames: '5' })];
  await work();
  await sql`delete from blob where hash in (select hash from run_file where run_id = ${ids[1]})`;
  const waiting = await waitingFiles(sql, 50);
  // Nobody has it yet: it says so, and is tried again.
  await placeFile(sql, waiting.find((f) => f.run === ids[1])!);
  expect((await runById(sql, ids[1]))!.fault).toMatch(/is not there any more: render the frame again$/);
  await againOf(sql, (await runById(sql, ids[0]))!, { which: [(await framesOfRun(sql, ids[0]))[0].id], urgent: false });
  await againOf(sql, (await runById(sql, ids[0]))!, { which: [(await framesOfRun(sql, ids[0]))[1].id], urgent: false });
  await work();
  for (const f of (await waitingFiles(sql, 50)).filter((w) => w.run === ids[0])) await placeFile(sql, f);
  await sql`update run_file set fault = null`;
  await place();
  const [first, second] = await Promise.all(ids.map(async (id) => (await runById(sql, id))!));
  expect([first.files.placed, second.files.placed, second.fault]).toEqual([3, 3, null]);
  await editRun(sql, ids[0], { removed: true }, queue.addFrames, queue.takeBack);
  await editRun(sql, ids[1], { removed: true }, queue.addFrames, queue.takeBack);
});

test('three files that are gone or changed are rendered anew, and no others', async () => {
  const [run] = await listRuns(sql, shot);
  const other = (await listRuns(sql, shot))[1];
  const path = (name: string) => join(other.folder, name);
  const names = ['test-shot_main_01.0001.exr', 'test-shot_ball_01.0004.exr', 'test-shot_bulb_01.0009.exr'];
  const before = await Promise.all(names.map((n) => fileHash(path(n))));
  await unlink(path(names[0]));
  await unlink(path(names[1]));
  await writeFile(path(names[2]), 'something else');
  expect(await againOf(sql, (await runById(sql, other.id))!, { which: 'missing', urgent: false })).toBe(3);
  expect(await againOf(sql, (await runById(sql, run.id))!, { which: 'missing', urgent: false })).toBe(0);
  expect((await work()).sort()).toEqual(['1a', '4a', '9b']);
  await place();
  // What somebody else put there stays until the run may overwrite.
  expect(await runById(sql, other.id)).toMatchObject({
    fault: `${names[2]}: another file has that name in the folder`,
  });
  await sql`update run_file set fault = null`;
  await sql`update run set overwrites = true where id = ${other.id}`;
  await place();
  expect(await Promise.all(names.map((n) => fileHash(path(n))))).toEqual(before);
});

test('a run that is paused leaves the queue, keeps what is there, and goes on; an urgent frame is next', async () => {
  const id = await start({ frames: '1-6', order: 'rising', wantedAt: '2031-02-03T08:00:00Z' });
  expect(await work(2)).toEqual(['1a', '1b']);
  expect((await runById(sql, id))!.wantedAt).toBe('2031-02-03T08:00:00.000Z');
  await editRun(sql, id, { wantedAt: '2031-02-04T08:00:00+02:00' }, queue.addFrames, queue.takeBack);
  await editRun(sql, id, { state: 'paused' }, queue.addFrames, queue.takeBack);
  expect(await queue.take()).toBeNull();
  // Frames of a paused run are not stranded.
  expect(await queue.adopt()).toBe(0);
  await editRun(sql, id, { state: 'on' }, queue.addFrames, queue.takeBack);
  const rows = await framesOfRun(sql, id);
  const fifth = rows.find((r) => r.frame === 5 && r.picture === 0)!.id;
  expect(await againOf(sql, (await runById(sql, id))!, { which: [fifth], urgent: true })).toBe(1);
  expect(await work(3)).toEqual(['5a', '2a', '2b']);
  await editRun(sql, id, { state: 'stopped' }, queue.addFrames, queue.takeBack);
  expect(await work()).toEqual([]);
  expect(await runById(sql, id)).toMatchObject({
    counts: { all: 12, done: 5, left: 7 },
    wantedAt: '2031-02-04T06:00:00.000Z',
  });
});

test('a frame whose run is paused while it is rendered goes on later to the same bits', async () => {
  const id = await start({ frames: '7', order: 'rising' });
  await sql`update run set recipe = jsonb_set(recipe, '{name}', '"slow"') where id = ${id}`;
  const slow = smallRecipe(400, 64);
  await sql`update recipe set document = ${sql.json(slow as never)} where hash in (select recipe_hash from trial where run_id = ${id} and picture = 0)`;
  const job = (await queue.take())!;
  const trial = (job.data as { trial: string }).trial;
  const going = testRunner(sql).run(trial, never);
  for (let n = 0; n < 200; n++) {
    const row = await trialById(sql, trial);
    if (row?.state === 'rendering' && row.fraction > 0) break;
    await new Promise((r) => setTimeout(r, 20));
  }
  await editRun(sql, id, { state: 'paused' }, queue.addFrames, queue.takeBack);
  await going;
  await queue.done(job);
  expect(await trialById(sql, trial)).toMatchObject({ state: 'queued' });
  await editRun(sql, id, { state: 'on' }, queue.addFrames, queue.takeBack);
  await work();
  const hashes = await sql<{ hash: string }[]>`select hash from run_file where trial_id = ${trial} order by name`;
  const again = await framesOfRun(sql, id);
  await againOf(sql, (await runById(sql, id))!, { which: [again[0].id], urgent: false });
  await work();
  expect(await sql`select hash from run_file where trial_id = ${trial} order by name`).toEqual(hashes);
});

test('a run tells what stops it before it starts, and never writes over what is there unasked', async () => {
  const asked = async (more: Partial<NewRun> = {}) =>
    roomFor(sql, (await shotById(sql, shot))!, newRunSchema.parse({ frames: '1-3', camera: 'cam', ...more }));
  const [, , first] = (await listRuns(sql, shot)).slice(-3);
  expect(await asked({ folder: first.folder })).toMatchObject({ fault: expect.stringContaining('holds another run') });
  expect(await asked()).toMatchObject({ taken: [], missing: [], fault: null });
  expect((await asked()).freeBytes).toBeGreaterThan(0);
  const own = join(folder, 'own');
  const room = await asked({ folder: own });
  await writeFile(join(folder, 'file'), '');
  expect(await asked({ folder: join(folder, 'file', 'below') })).toMatchObject({
    fault: expect.stringContaining('is no folder'),
  });
  await mkdir(own);
  const name = `test-shot_main_0${room.next}.0002.exr`;
  await writeFile(join(own, name), 'mine');
  expect((await asked({ folder: own })).taken).toEqual([name]);
  expect(await refused(start({ folder: own }))).toBe(`taken: ${name} is in the folder already`);
  expect(await refused(start({ frames: '0-3' }))).toBe('frames: 0-3: the shot has frames 1 to 12');
  expect(await refused(start({ camera: 'side' }))).toBe('camera: the scene has no camera side');
  // Films that do not fit beside those that are stored.
  const full = 'f'.repeat(64);
  await sql`insert into blob (hash, bytes) values (${full}, ${2e10})`;
  expect((await asked()).storeBytes).toBe(0);
  // One that keeps none goes on.
  expect(await refused(checkBudget(sql, 0))).toBeNull();
  expect(await refused(start({ keepsFilms: true }))).toMatch(/^budget: stored films take 20\.\d GB of 20/);
  await sql`delete from blob where hash = ${full}`;
  const { version, outputs } = (await draftOf(sql, shot))!;
  await saveDraft(sql, shot, version, { outputs: { ...outputs, list: [] } });
  expect(await refused(start({}))).toBe('outputs: no output is chosen: nothing would be written');
  await saveDraft(sql, shot, version + 1, { outputs });
});

test('a frame that proves what is written is small, keeps its films, and comes before other runs', async () => {
  const other = await start({ frames: '11' });
  const id = await start({ frames: '10', proof: true });
  expect(await work()).toEqual(['10a', '10b', '11a', '11b']);
  const run = (await runById(sql, id))!;
  expect(run).toMatchObject({ keepsFilms: true, recipe: { name: expect.stringContaining('proof') } });
  const [row] = await framesOfRun(sql, id);
  expect((await trialById(sql, row.id))!.film).not.toBeNull();
  await editRun(sql, other, { removed: true }, queue.addFrames, queue.takeBack);
  expect((await listRuns(sql, shot)).some((r) => r.id === other)).toBe(false);
  await editRun(sql, other, { removed: false }, queue.addFrames, queue.takeBack);
  expect((await listRuns(sql, shot)).some((r) => r.id === other)).toBe(true);
});

test('what is sent twice under one key is started once', async () => {
  const key = '01890000-0000-7000-8000-000000000001';
  expect(await start({ frames: '12', key })).toBe(await start({ frames: '12', key }));
  expect(await work()).toEqual(['12a', '12b']);
});

test('what the stack makes of every frame is delivered too, in light and as displayed, with what it needs kept', async () => {
  const { version } = (await draftOf(sql, shot))!;
  const stack = parseStack({
    schema: 1,
    films: { shown: 'A' },
    moods: { night: 'night' },
    entries: [
      { kind: 'layer', name: 'sky', source: { from: 'film', film: 'shown', layer: 'group.sky' } },
      {
        kind: 'operation',
        name: 'up',
        operation: { does: 'exposure', stops: { keys: [1, 3].map((frame) => ({ frame, value: frame - 1 })) } },
      },
    ],
  });
  await saveDraft(sql, shot, version, { recipe: smallRecipe(4, 24), stack });
  const { outputs } = (await draftOf(sql, shot))!;
  const groups = { ...outputs, list: [{ ...outputs.list[0], layers: ['group.sky'], depth: 'float' as const }] };
  await saveDraft(sql, shot, version + 1, { outputs: groups });
  const id = await start({ frames: '1-3', comp: 'exr' });
  const shown = await start({ frames: '2', comp: 'png' });
  await work();
  await place();
  const run = (await runById(sql, id))!;
  const number = String(run.number).padStart(2, '0');
  const plane = async (output: string, frame: number, channel: string) => {
    const source = fromBytes(await readFile(join(run.folder, `test-shot_${output}_${number}.000${frame}.exr`)));
    const file = await readHeaders(source);
    const at = file.parts[0].channels.findIndex((c) => c.name.split('.').at(-1) === channel);
    return (await readPart(source, file, 0, nodeInflate))[at] as Float32Array;
  };
  for (const [frame, stops] of [
    [1, 0],
    [3, 2],
  ]) {
    const [made, part] = [await plane('comp', frame, 'G'), await plane('main', frame, 'G')];
    const off = made.map((v, i) => Math.abs(v - part[i] * 2 ** stops));
    expect(Math.max(...off)).toBeLessThan(1e-3);
    expect(Math.max(...made)).toBeGreaterThan(0.01);
  }
  const other = (await runById(sql, shown))!;
  const png = await readFile(join(other.folder, `test-shot_comp_${String(other.number).padStart(2, '0')}.0002.png`));
  expect(png.readUInt8(24)).toBe(16);
  await saveDraft(sql, shot, version + 2, { outputs, stack: NO_STACK });
});

test('frames are denoised by their recipe: less noise, parts that still add up, and a header that says so', async () => {
  const { version, outputs } = (await draftOf(sql, shot))!;
  const groups = { ...outputs, list: [{ ...outputs.list[0], layers: ['beauty', 'group.*'], depth: 'float' as const }] };
  const noisy = withSetting(smallRecipe(2, 48), 'denoise.on', true) as never;
  await saveDraft(sql, shot, version, { recipe: noisy, outputs: groups });
  const clean = await start({ frames: '1' });
  await saveDraft(sql, shot, version + 1, { recipe: smallRecipe(2, 48) });
  const plain = await start({ frames: '1' });
  await work();
  await place();
  const layersIn = async (id: string) => {
    const run = (await runById(sql, id))!;
    const bytes = await readFile(join(run.folder, `test-shot_main_${String(run.number).padStart(2, '0')}.0001.exr`));
    const source = fromBytes(bytes);
    const file = await readHeaders(source);
    const parts = await Promise.all(
      file.parts.map(async (p, i) => ({
        ...p,
        planes: await readPart(source, file, i, nodeInflate),
        width: 48,
        height: 48,
      })),
    );
    return { film: layersOf(parts), attributes: file.parts[0].attributes };
  };
  const [own, rendered] = [await layersIn(clean), await layersIn(plain)];
  expect(own.attributes['lantern:denoised']).toMatchObject({ value: '100 %' });
  expect(rendered.attributes['lantern:denoised']).toBeUndefined();
  expect(tally(own.film, 'group')!.maxError).toBeLessThan(1e-5);
  /** How far pixels are from the one beside them, which noise makes larger. */
  const rough = ({ film }: typeof own) => {
    const [, g] = film.layers.get('beauty')!.planes;
    return g.reduce((sum, v, i) => sum + (i % 48 === 0 ? 0 : Math.abs(v - g[i - 1])), 0);
  };
  expect(rough(own)).toBeLessThan(0.8 * rough(rendered));
  await saveDraft(sql, shot, version + 2, { outputs });
});

test('films are kept where they are wanted, and taken as one .zip with a manifest', async () => {
  const { version } = (await draftOf(sql, shot))!;
  await saveDraft(sql, shot, version, { recipe: withSetting(smallRecipe(4, 24), 'film.ledger', 'all') as never });
  const id = await start({ frames: '1-2', keepsFilms: true });
  await work();
  const rows = await framesOfRun(sql, id);
  expect((await trialById(sql, rows[0].id))!.film).not.toBeNull();
  // One frame lies in the folder, the other waits yet.
  for (const f of (await waitingFiles(sql, 50)).filter((w) => w.name.endsWith('0001.exr'))) await placeFile(sql, f);
  const path = join(folder, 'all.zip');
  const pieces: Uint8Array[] = [];
  for await (const piece of await zipOfRun(sql, (await runById(sql, id))!)) pieces.push(piece);
  await writeFile(path, Buffer.concat(pieces));
  const said = execFileSync('python3', [
    '-c',
    'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); assert z.testzip() is None; print("\\n".join(sorted(z.namelist())))',
    path,
  ]).toString();
  expect(said.trim().split('\n')).toHaveLength(7);
  expect(said).toContain('manifest.json');
});
