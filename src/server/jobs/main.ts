import { readFileSync } from 'node:fs';
import { availableParallelism, hostname } from 'node:os';
import { compileKernel, spawnNode } from '@/render/node/threads';
import { database } from '../db/connection';
import { seeMachine } from '../db/machines';
import { listWaiting, purgeRemoved } from '../db/trials';
import { openQueue, TRIAL_QUEUE, type TrialJob } from './queue';
import { Studio } from './studio';
import { TrialRunner } from './trial';

/** How long the film of a trial is kept after it has been taken out of the logbook. */
const KEPT_AFTER_REMOVAL_MINUTES = 60;

const root = new URL('..', import.meta.url);
const version: string = JSON.parse(readFileSync(new URL('package.json', root), 'utf8')).version;

/** `lantern worker`: renders trials from the queue until it is told to end. */
async function work(): Promise<void> {
  const sql = database();
  const threads = Number(process.env.LANTERN_THREADS) || availableParallelism();
  const studio = new Studio(sql, {
    module: await compileKernel(new URL('public/wasm/kernel.wasm', root)),
    spawn: spawnNode(new URL('./thread.mjs', import.meta.url)),
    threads,
    version,
  });
  const runner = new TrialRunner(sql, studio);
  const boss = await openQueue(sql, true);
  const closing = new AbortController();
  const seen = () =>
    seeMachine(sql, hostname(), threads)
      .then(() => purgeRemoved(sql, KEPT_AFTER_REMOVAL_MINUTES))
      .catch(() => {});
  await seen();
  const beat = setInterval(seen, 10000);
  await boss.work<TrialJob>(
    TRIAL_QUEUE,
    { batchSize: 1, pollingIntervalSeconds: 1, notifyPollingIntervalSeconds: 5 },
    async ([job]) => {
      await runner.run(job.data.trial, closing.signal);
    },
  );
  process.stdout.write(`worker: ready with ${threads} threads\n`);
  const end = async () => {
    if (closing.signal.aborted) return;
    closing.abort();
    clearInterval(beat);
    await boss.stop({ graceful: true, timeout: 8000 }).catch(() => {});
    studio.close();
    await sql.end({ timeout: 2 });
    process.exit(0);
  };
  process.on('SIGTERM', end);
  process.on('SIGINT', end);
}

/** `lantern queue`: what is waiting and what is being rendered. */
async function list(): Promise<void> {
  const sql = database();
  const rows = await listWaiting(sql);
  for (const r of rows)
    process.stdout.write(
      `${r.shot}  ${String(r.number).padStart(2, '0')}  ${r.state}  ${Math.round(r.fraction * 100)} %  ${r.title}\n`,
    );
  if (rows.length === 0) process.stdout.write('the queue is empty\n');
  await sql.end();
}

const verb = process.argv[2] ?? 'worker';
(verb === 'queue' ? list() : work()).catch((error) => {
  process.stderr.write(`lantern ${verb}: ${(error as Error).message.split('\n')[0]}\n`);
  process.exit(/DATABASE_URL/.test((error as Error).message) ? 2 : 1);
});
