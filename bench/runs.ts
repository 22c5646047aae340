import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseOutputs } from '@/core/outputs';
import { canonicalJson, parseRecipe, type Recipe } from '@/core/recipe';
import { inOrder, workLeft } from '@/core/runs';
import { SHOTS } from '@/core/shots';
import { sha256 } from '@/node/hash';
import { connect, type Sql } from '@/server/db/connection';
import { newId } from '@/server/db/ids';
import { migrate } from '@/server/db/migrate';
import { notePacked } from '@/server/db/run-files';
import { addRun, framesOfRun } from '@/server/db/runs';
import { latestRevision, putShot } from '@/server/db/shots';
import { beginTrial, finishTrial, noteProgress } from '@/server/db/trial-life';
import { setMachine } from '@/server/db/workers';
import { TrialQueue } from '@/server/jobs/queue';
import { putBlob } from '@/server/storage/blobs';

const OUTPUTS = parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'alpha', 'group.*'] }] });
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

async function seeded(sql: Sql, name: string, recipe: Recipe): Promise<{ shot: string; revision: string }> {
  const { document, geometry } = SHOTS['quay-dawn']();
  const hash = await putBlob(sql, geometry);
  const stored = { ...document, name, geometry: { ...document.geometry, hash } };
  const shot = await putShot(
    sql,
    name,
    90,
    { document: stored, geometry: hash, hash: sha256(canonicalJson(stored)) },
    recipe,
  );
  return { shot, revision: (await latestRevision(sql, shot))!.id };
}

async function started(
  sql: Sql,
  queue: TrialQueue,
  of: { shot: string; revision: string },
  recipe: Recipe,
  frames: readonly number[],
  folder: string,
): Promise<string> {
  return addRun(
    sql,
    {
      ...of,
      title: 'bench',
      camera: 'harbour master',
      frames: `${frames[0]}-${frames[frames.length - 1]}`,
      recipe,
      outputs: OUTPUTS,
      folder: () => folder,
      overwrites: true,
      keepsFilms: false,
      priority: 0,
      key: null,
      pictures: [{ recipe, recipeHash: sha256(canonicalJson(recipe)), outputs: OUTPUTS }],
      order: inOrder(frames, 'ends'),
    },
    queue.addFrames,
  );
}

/** A database beside the one that is named, made afresh. */
async function otherDatabase(name: string): Promise<{ sql: Sql; url: string }> {
  const base = process.env.DATABASE_URL!;
  const admin = connect(base, { max: 1 });
  await admin.unsafe(`drop database if exists ${name} with (force)`);
  await admin.unsafe(`create database ${name}`);
  await admin.end();
  const url = base.replace(/\/[^/]*$/, `/${name}`);
  const sql = connect(url, { max: 10 });
  await migrate(sql, new URL('../src/server/db/migrations/', import.meta.url));
  return { sql, url };
}

const worker = (url: string): ChildProcess =>
  spawn('node', [join(process.cwd(), 'build/worker.mjs'), 'worker'], {
    env: { ...process.env, DATABASE_URL: url, LANTERN_THREADS: '1', LANTERN_DELIVERS: 'on' },
    stdio: 'ignore',
  });

async function ended(child: ChildProcess): Promise<void> {
  child.kill('SIGTERM');
  await new Promise((resolve) => child.once('exit', resolve));
}

const FRAMES = Array.from({ length: 24 }, (_, i) => i + 1);

/**
 * 24 frames by one worker of one thread and by two, one after another: the ratio of their times. Of the first, what a frame takes
 * beside tracing, and how far the time that was told after three frames was off, and its interval.
 */
export async function measureWorkers() {
  const { sql, url } = await otherDatabase('lantern_bench_runs');
  const folder = await mkdtemp(join(tmpdir(), 'lantern-bench-runs-'));
  const recipe = parseRecipe({
    name: 'bench',
    // A frame of few samples would be a quarter measuring and packing, which one worker does beside tracing on the core that a second one wants.
    size: { width: 320, height: 180, scale: 100 },
    sampling: { cameraMin: 24, cameraMax: 24 },
  });
  const queue = await TrialQueue.open(sql, false);
  const of = await seeded(sql, 'bench-shot', recipe);
  const timed = async (count: number) => {
    const workers = Array.from({ length: count }, () => worker(url));
    // A worker starts once and then goes on: its start is no part of a run.
    while ((await sql`select 1 from worker where seen_at > now() - interval '5 seconds'`).length < count)
      await wait(50);
    const from = performance.now();
    const run = await started(sql, queue, of, recipe, FRAMES, folder);
    for (;;) {
      const [{ left }] = await sql<{ left: number }[]>`
        select count(*)::int as left from trial where run_id = ${run} and state <> 'done'`;
      if (left === 0) break;
      await wait(50);
    }
    const seconds = (performance.now() - from) / 1000;
    await Promise.all(workers.map(ended));
    return { run, seconds };
  };
  const one = await timed(1);
  const two = await timed(2);
  const rows = await framesOfRun(sql, one.run);
  const [{ trace }] = await sql<{ trace: number }[]>`
    select sum((seconds ->> 'trace')::float8) as trace from trial where run_id = ${one.run}`;
  const early = inOrder(FRAMES, 'ends').slice(0, 3);
  const known = rows.filter((r) => early.includes(r.frame)).map((r) => ({ frame: r.frame, seconds: r.seconds! }));
  const rest = rows.filter((r) => !early.includes(r.frame));
  const told = workLeft(
    known,
    rest.map((r) => ({ frame: r.frame, part: 1 })),
  )!;
  const truth = rest.reduce((sum, r) => sum + r.seconds!, 0);
  await queue.close();
  await sql.end();
  await rm(folder, { recursive: true });
  return {
    twoOverOne: two.seconds / one.seconds,
    frameSeconds: one.seconds / FRAMES.length,
    besideTracingSeconds: (one.seconds - trace) / FRAMES.length,
    forecast: { off: told.value / truth - 1, held: truth >= told.low && truth <= told.high },
  };
}

const [SIMULATED, SIMULATED_FRAMES] = [200, 20000];

/** What a simulated worker finishes a frame with. */
const RESULT = {
  state: 'done',
  seconds: { load: 0.1, trace: 4, calibrated: 4, write: 0.2 },
  noise: { rms: 1.5, p95: 3, worstCell: 4 },
  figures: {},
  spec: { region: { x: 0, y: 0, width: 1280, height: 720 } },
  film: null,
  thumbnail: new Uint8Array(20000),
  layers: [],
};

const percentile = (v: number[], p: number) => [...v].sort((a, b) => a - b)[Math.floor((v.length - 1) * p)];

/**
 * 200 workers that sleep in place of tracing and 20,000 frames against the real database and server: frames a second through the
 * queue, frames that were finished twice, and how long the server takes to list runs and the frames of that one meanwhile.
 */
export async function simulateFarm(sql: Sql, url: string) {
  const pool = connect(process.env.DATABASE_URL!, { max: 48 });
  const queue = await TrialQueue.open(pool, false);
  const recipe = parseRecipe({ name: 'farm' });
  const of = await seeded(sql, 'farm', recipe);
  const machines = await sql<{ name: string }[]>`select name from machine`;
  for (const { name } of machines) await setMachine(sql, name, { drained: true });
  const from = performance.now();
  const frames = Array.from({ length: SIMULATED_FRAMES }, (_, i) => i + 1);
  const run = await started(pool, queue, of, recipe, frames, join(tmpdir(), 'lantern-farm'));
  const startSeconds = (performance.now() - from) / 1000;
  const finished = new Map<string, number>();
  let idle = 0;
  const work = async (seed: number) => {
    for (let n = 0; ; n++) {
      const job = await queue.take();
      if (!job) {
        if (++idle > SIMULATED) return;
        await wait(20);
        continue;
      }
      const id = (job.data as { trial: string }).trial;
      const holder = newId();
      if ((await beginTrial(pool, id, holder)) === null) {
        await queue.done(job);
        continue;
      }
      await wait(50 + ((seed * 131 + n * 37) % 100));
      await noteProgress(pool, id, holder, 0.5, 1000);
      const file = { name: `farm.${id}.exr`, output: 'main', layers: ['beauty'], bytes: 1, hash: '0'.repeat(64) };
      const isMine = await finishTrial(pool, id, holder, RESULT as never, (tx, of) => notePacked(tx, run, of, [file]));
      if (isMine) finished.set(id, (finished.get(id) ?? 0) + 1);
      await queue.done(job);
    }
  };
  const [lists, wholes]: number[][] = [[], []];
  let over = false;
  const look = async () => {
    while (!over) {
      for (const [path, into] of [
        [`/api/shots/${of.shot}/runs`, lists],
        [`/api/runs/${run}`, wholes],
      ] as const) {
        const at = performance.now();
        const answer = await fetch(url + path);
        await answer.arrayBuffer();
        if (!answer.ok) throw new Error(`${path}: ${answer.status}`);
        into.push(performance.now() - at);
      }
      await wait(500);
    }
  };
  const looking = look();
  const begun = performance.now();
  await Promise.all(Array.from({ length: SIMULATED }, (_, i) => work(i)));
  const seconds = (performance.now() - begun) / 1000;
  over = true;
  await looking;
  await queue.close();
  await pool.end();
  for (const { name } of machines) await setMachine(sql, name, { drained: false });
  await sql`delete from run where id = ${run}`;
  return {
    startSeconds,
    framesPerSecond: finished.size / seconds,
    finished: finished.size,
    twice: [...finished.values()].filter((n) => n > 1).length,
    listMs: percentile(lists, 0.95),
    wholeMs: percentile(wholes, 0.95),
  };
}
