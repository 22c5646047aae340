import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import { newTrialSchema } from '@/contract/trial';
import { makeLayers } from '@/core/film';
import { parseOutputs, pictureRecipe } from '@/core/outputs';
import { canonicalJson, type Recipe } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import { filmHash } from '@/render/node/film-digest';
import type { Sql } from '../db/connection';
import { draftOf, saveDraft } from '../db/shots';
import type { Inside } from '../db/transaction';
import { goOn, leaveUntimed, requestStop } from '../db/trial-life';
import { addTrial, type TrialRow, thumbnailOf, trialById } from '../db/trials';
import { sentTrial } from '../http/sent-trial';
import { getBlob } from '../storage/blobs';
import { loadCheckpoint } from '../storage/checkpoints';
import { seedShot, smallRecipe, testDatabase } from '../testing';
import { TrialQueue } from './queue';
import { checkpointAfter, Interrupted } from './render-film';
import { storedLayer, straight, testRunner } from './testing';

let sql: Sql;
let url: string;
let close: () => Promise<void>;
let shot: string;
let revision: string;
beforeAll(async () => {
  ({ sql, url, close } = await testDatabase('lantern_test_jobs'));
  ({ shot, revision } = await seedShot(sql));
  // What finds shots asks the process’s one client.
  (globalThis as { lanternSql?: Sql }).lanternSql = sql;
});
afterAll(() => close());

const unqueued = async () => {};
const log = async (recipe: Recipe, queue: Inside = unqueued) => {
  const recipeHash = sha256(canonicalJson(recipe));
  return (await addTrial(sql, { shot, revision, recipe, recipeHash, camera: 'cam', parent: null, title: 't' }, queue))
    .id;
};
const runner = () => testRunner(sql);

test('a trial is rendered, measured and stored with its film to the bit', async () => {
  const recipe = smallRecipe(6);
  const id = await log(recipe);
  await runner().run(id, new AbortController().signal);
  const trial = (await trialById(sql, id))!;
  expect(trial).toMatchObject({ state: 'done', fraction: 1, fault: null });
  expect(trial.noise!.rms).toBeGreaterThan(0);
  expect(trial.seconds!.trace).toBeGreaterThan(0);
  expect(trial.seconds!.calibrated).toBeGreaterThan(0);
  const film = await straight(recipe);
  expect(trial.figures!.rays).toEqual(film.rays());
  const expected = makeLayers(film).layers;
  for (const name of ['beauty', 'group.bulb', 'half_b.bulb', 'class.direct_diffuse']) {
    expect((await storedLayer(sql, id, name)).map((p) => Array.from(p))).toEqual(
      expected.get(name)!.planes.map((p) => Array.from(p)),
    );
  }
  expect(
    Buffer.from((await thumbnailOf(sql, id))!)
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG');
});

test('a stop keeps what there is', async () => {
  const id = await log(smallRecipe(4096));
  const work = runner().run(id, new AbortController().signal);
  await new Promise((r) => setTimeout(r, 900));
  expect(await requestStop(sql, id)).toBe(true);
  await work;
  const trial = (await trialById(sql, id))!;
  expect(trial.state).toBe('stopped');
  expect(trial.figures!.sampleRange[1]).toBeLessThan(4096);
  expect((await storedLayer(sql, id, 'beauty'))[0].some((v) => v > 0)).toBe(true);
});

test('a stopped trial goes on where it stopped, to the bits of one that never did', async () => {
  const recipe = smallRecipe(400, 64);
  const id = await log(recipe);
  const work = runner().run(id, new AbortController().signal);
  const begun = setInterval(async () => {
    if (((await trialById(sql, id))?.fraction ?? 0) === 0) return;
    clearInterval(begun);
    await requestStop(sql, id);
  }, 40);
  await work;
  const stopped = (await trialById(sql, id))!;
  expect(stopped.state).toBe('stopped');
  expect(stopped.figures!.sampleRange[0]).toBeLessThan(400);
  expect(await goOn(sql, id, unqueued)).toBe(true);
  expect(await goOn(sql, id, unqueued)).toBe(false);
  await runner().run(id, new AbortController().signal);
  const done = (await trialById(sql, id))!;
  expect(done.state).toBe('done');
  expect(done.figures!.sampleRange).toEqual([400, 400]);
  expect(done.seconds!.trace).toBeGreaterThan(stopped.seconds!.trace);
  const film = makeLayers(await straight(recipe)).layers.get('beauty')!;
  expect((await storedLayer(sql, id, 'beauty')).map((p) => Array.from(p))).toEqual(
    film.planes.map((p) => Array.from(p)),
  );
  // The film of the stop is no longer kept, nor what was needed to go on.
  expect(await getBlob(sql, stopped.film!)).toBeNull();
  expect(await loadCheckpoint(sql, id)).toBeNull();
});

test('an interrupted trial goes on from its checkpoint to the same bits', async () => {
  const recipe = smallRecipe(1000, 64);
  const id = await log(recipe);
  const closing = new AbortController();
  const first = runner().run(id, closing.signal);
  const begun = setInterval(async () => {
    if (((await trialById(sql, id))?.fraction ?? 0) === 0) return;
    clearInterval(begun);
    closing.abort();
  }, 40);
  await expect(first).rejects.toBeInstanceOf(Interrupted);
  // An end that was ordered costs no attempt.
  const [{ attempts }] = await sql`select attempts from trial where id = ${id}`;
  expect(attempts).toBe(0);
  expect((await trialById(sql, id))!.state).toBe('queued');
  expect(await loadCheckpoint(sql, id)).not.toBeNull();
  await runner().run(id, new AbortController().signal);
  expect((await trialById(sql, id))!.state).toBe('done');
  expect(await loadCheckpoint(sql, id)).toBeNull();
  const film = await straight(recipe);
  expect((await storedLayer(sql, id, 'beauty')).map((p) => Array.from(p))).toEqual(
    makeLayers(film)
      .layers.get('beauty')!
      .planes.map((p) => Array.from(p)),
  );
});

test('a trial that others worked beside has no time at speed 1', async () => {
  const id = await log(smallRecipe(4));
  expect(await leaveUntimed(sql, id)).toBe(true);
  await runner().run(id, new AbortController().signal);
  const trial = (await trialById(sql, id))!;
  expect(trial).toMatchObject({ state: 'done', untimed: true });
  expect(trial.seconds).toMatchObject({ calibrated: null });
  expect(trial.seconds!.trace).toBeGreaterThan(0);
  expect(await leaveUntimed(sql, id)).toBe(false);
});

test('what keeps ending before anything is kept is kept sooner each time', () => {
  expect([1, 2, 3, 4, 5].map((n) => checkpointAfter(n, 0))).toEqual([30000, 7500, 1875, 500, 500]);
  expect(checkpointAfter(1, 4000)).toBe(80000);
  expect(checkpointAfter(4, 1000)).toBe(4000);
});

test('a film’s hash tells its pixels: the same of the same recipe, another of another seed', async () => {
  const recipe = smallRecipe(8);
  const hash = filmHash(await straight(recipe));
  expect(filmHash(await straight(recipe))).toBe(hash);
  expect(filmHash(await straight({ ...recipe, sampling: { ...recipe.sampling, seed: 2 } }))).not.toBe(hash);
});

test('a trial whose scene cannot be loaded fails in words', async () => {
  const [row] = await sql`select document from scene_revision where id = ${revision}`;
  const broken = structuredClone(row.document);
  broken.cameras[0].name = 'elsewhere';
  await sql`update scene_revision set document = ${sql.json(broken)} where id = ${revision}`;
  const id = await log(smallRecipe(2));
  await runner().run(id, new AbortController().signal);
  await sql`update scene_revision set document = ${sql.json(row.document)} where id = ${revision}`;
  expect(await trialById(sql, id)).toMatchObject({ state: 'failed', fault: 'the scene has no camera cam' });
});

describe('worker process', () => {
  const root = join(__dirname, '../../..');
  const children: ChildProcess[] = [];
  const start = async (): Promise<ChildProcess> => {
    const child = spawn('node', [join(root, 'build/worker.mjs'), 'worker'], {
      env: { ...process.env, DATABASE_URL: url, LANTERN_THREADS: '2' },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    children.push(child);
    await once(child.stdout!, 'data');
    return child;
  };
  afterAll(() => {
    for (const c of children) if (c.exitCode === null && c.signalCode === null) c.kill('SIGKILL');
  });
  const until = async (id: string, states: string[], seconds: number) => {
    for (const end = Date.now() + seconds * 1000; Date.now() < end; ) {
      const t = await trialById(sql, id);
      if (t && states.includes(t.state)) return t;
      await new Promise((r) => setTimeout(r, 50));
    }
    throw new Error(`trial did not become ${states.join(' or ')} in ${seconds} s`);
  };

  test('kill -9 in the middle of a launch of four pictures loses nothing: another worker ends it with the same bits', async () => {
    const queue = await TrialQueue.open(sql, false);
    const ball = { kind: 'object', name: 'ball' };
    const variants = {
      parts: null,
      clay: { 'clay.on': true, 'sampling.cameraMax': 40 },
      dark: { 'scope.lights': [{ kind: 'group', name: 'bulb' }] },
      cut: { 'scope.receivers': [ball], 'scope.sky': false },
    };
    const list = Object.entries(variants).map(([name, variant]) => ({ id: name, name, layers: ['beauty'], variant }));
    const { version } = (await draftOf(sql, shot))!;
    await saveDraft(sql, shot, version, { outputs: parseOutputs({ list }) });
    const base = smallRecipe(120, 96);
    const first = await start();
    const launched: TrialRow[] = [];
    for (const { name } of list) {
      const asked = newTrialSchema.parse({ shot, camera: 'cam', recipe: base, output: name });
      const { id } = await addTrial(sql, await sentTrial(sql, asked), queue.add);
      launched.push((await trialById(sql, id))!);
    }
    expect(launched.map((t) => [t.title, t.variantFor])).toEqual([
      [base.name, null],
      ...(['clay', 'dark', 'cut'] as const).map((n) => [n, { names: [n], variant: variants[n] }]),
    ]);
    await until(launched[2].id, ['rendering'], 60);
    await new Promise((r) => setTimeout(r, 300));
    const holder = async ({ id }: TrialRow) =>
      (await sql<{ holder: string }[]>`select holder from trial where id = ${id}`)[0].holder;
    expect((await trialById(sql, launched[2].id))!.state).toBe('rendering');
    const before = await holder(launched[2]);
    first.kill('SIGKILL');
    await once(first, 'exit');
    const second = await start();
    for (const { id, recipe, outputs } of launched) {
      await until(id, ['done'], 60);
      expect(recipe).toEqual(pictureRecipe(base, outputs!, outputs!.list[0].variant, ['bulb', 'unassigned']));
      const straightly = makeLayers(await straight(recipe)).layers.get('beauty')!.planes;
      const bytes = (planes: readonly Float32Array[]) => planes.map((p) => sha256(new Uint8Array(p.slice().buffer)));
      expect(bytes(await storedLayer(sql, id, 'beauty'))).toEqual(bytes(straightly));
    }
    expect(await holder(launched[2])).not.toBe(before);
    second.kill('SIGTERM');
    const [code] = await once(second, 'exit');
    expect(code).toBe(0);
    await queue.close();
  }, 120000);
});
