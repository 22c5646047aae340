import { readFileSync } from 'node:fs';
import { availableParallelism, hostname } from 'node:os';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { faultWords, patiently } from '../db/away';
import { sweepBlobs } from '../db/blobs';
import { database } from '../db/connection';
import { MachinePlace, seeMachine } from '../db/machines';
import { listWaiting } from '../db/trial-life';
import { purgeRemoved } from '../db/trials';
import { DenoiseRunner } from './denoise-film';
import { servePlacing } from './place';
import { type TrialJob, TrialQueue } from './queue';
import { logSamples } from './samples';
import { Studio } from './studio';
import { TrialRunner } from './trial';
import { serve } from './work';

/** How long the film of a trial is kept after it has been taken out of the logbook. */
const KEPT_AFTER_REMOVAL_MINUTES = 60;
/** How long content is kept that nothing refers to: an edit that is undone may want it back. */
const KEPT_UNUSED_DAYS = 7;
const BEAT_MS = 10000;
const SWEEP_MS = 6 * 3600e3;
const SAMPLES_AFTER_MS = 8000;

const root = new URL('..', import.meta.url);
const version: string = JSON.parse(readFileSync(new URL('package.json', root), 'utf8')).version;

/** `lantern worker`: renders trials from the queue until it is told to end. */
async function work(): Promise<void> {
  const sql = database();
  const threads = Number(process.env.LANTERN_THREADS) || availableParallelism();
  const closing = new AbortController();
  for (const signal of ['SIGTERM', 'SIGINT']) process.on(signal, () => closing.abort());
  const compiled = (name: string) => compileWasm(new URL(`public/wasm/${name}.wasm`, root));
  const spawn = spawnNode(new URL('./thread.mjs', import.meta.url));
  const studio = new Studio(sql, { module: await compiled('kernel'), spawn, threads, version });
  const queue = await patiently(closing.signal, () => TrialQueue.open(sql, true));
  const renders = new TrialRunner(sql, studio, queue.addDenoising, hostname());
  const denoises = new DenoiseRunner(sql, studio, { module: await compiled('denoise'), spawn, threads });
  const place = new MachinePlace(sql, hostname());
  const seen = () =>
    seeMachine(sql, hostname(), threads)
      .then(() => purgeRemoved(sql, KEPT_AFTER_REMOVAL_MINUTES))
      .catch(() => {});
  const sweep = () => sweepBlobs(sql, KEPT_UNUSED_DAYS).catch(() => {});
  await seen();
  const beat = setInterval(seen, BEAT_MS);
  const broom = setInterval(sweep, SWEEP_MS);
  void sweep();
  process.stdout.write(`worker: ready with ${threads} threads\n`);
  // The page comes first: it is up, and has its own picture, some seconds after a start.
  if (process.env.LANTERN_SAMPLES === 'on')
    setTimeout(() => void logSamples(sql, queue.addLast).catch(() => {}), SAMPLES_AFTER_MS);
  const placing =
    process.env.LANTERN_DELIVERS === 'on' ? servePlacing(sql, version, closing.signal) : Promise.resolve();
  const run = (asked: TrialJob['data'], signal: AbortSignal) =>
    'denoise' in asked ? denoises.run(asked.denoise, signal) : renders.run(asked.trial, signal);
  await serve({ sql, queue, place, run, signal: closing.signal });
  await placing;
  clearInterval(beat);
  clearInterval(broom);
  studio.close();
  await Promise.all([queue.close(), place.close()]);
  await sql.end({ timeout: 2 });
  process.exit(0);
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
  process.stderr.write(`lantern ${verb}: ${faultWords(error)}\n`);
  process.exit(1);
});
