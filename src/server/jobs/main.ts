import { readFileSync } from 'node:fs';
import { availableParallelism, hostname } from 'node:os';
import { isOver } from '@/contract/run';
import { writeWhole } from '@/node/folder';
import { packOnThreads } from '@/node/zlib';
import { sweepBands } from '@/render/node/rendered-frame';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { faultWords, patiently } from '../db/away';
import { sweepBlobs } from '../db/blobs';
import { database } from '../db/connection';
import { newId } from '../db/ids';
import { listRuns } from '../db/runs';
import { listShots } from '../db/shots';
import { listWaiting } from '../db/trial-life';
import { purgeRemoved } from '../db/trials';
import { leaveWorker, MachinePlace, noteDoing, noteDone, seeWorker, type Wanted } from '../db/workers';
import { askedReport } from '../report/verb';
import { DenoiseRunner } from './denoise-film';
import { buildMark } from './mark';
import { serveMovies } from './movies';
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

/** `lantern worker`: renders trials and frames from the queue until it is told to end. */
async function work(): Promise<void> {
  const sql = database();
  const cores = availableParallelism();
  const started = Number(process.env.LANTERN_THREADS) || cores;
  const delivers = process.env.LANTERN_DELIVERS === 'on';
  const note = { id: newId(), machine: hostname(), cores, threads: started, mark: buildMark(root), delivers };
  const closing = new AbortController();
  for (const signal of ['SIGTERM', 'SIGINT']) process.on(signal, () => closing.abort());
  const compiled = (name: string) => compileWasm(new URL(`public/wasm/${name}.wasm`, root));
  packOnThreads(new URL('./packing.mjs', import.meta.url));
  const spawn = spawnNode(new URL('./thread.mjs', import.meta.url));
  const studio = new Studio(sql, { module: await compiled('kernel'), spawn, threads: started, version });
  const queue = await patiently(closing.signal, () => TrialQueue.open(sql, true));
  const filtering = { module: await compiled('denoise'), spawn, threads: started };
  const renders = new TrialRunner(sql, studio, queue.addDenoising, note.machine, filtering, queue.addFrames);
  const denoises = new DenoiseRunner(sql, studio, filtering);
  const place = new MachinePlace(sql, note.machine, cores, started);
  let wanted: Wanted = { threads: null, drained: false, mark: null };
  const seen = async () => {
    wanted = await seeWorker(sql, note);
    await purgeRemoved(sql, KEPT_AFTER_REMOVAL_MINUTES);
  };
  const sweep = async () => {
    sweepBands();
    await sweepBlobs(sql, KEPT_UNUSED_DAYS).catch(() => {});
  };
  await patiently(closing.signal, seen);
  const beat = setInterval(() => void seen().catch(() => {}), BEAT_MS);
  const broom = setInterval(() => void sweep(), SWEEP_MS);
  void sweep();
  process.stdout.write(`worker: ready with ${started} threads\n`);
  // The page comes first: it is up, and has its own picture, some seconds after a start.
  if (process.env.LANTERN_SAMPLES === 'on')
    setTimeout(() => void logSamples(sql, queue.addLast).catch(() => {}), SAMPLES_AFTER_MS);
  const delivering = delivers ? [servePlacing(sql, version, closing.signal), serveMovies(sql, closing.signal)] : [];
  /** What is wanted of the machine is done between jobs. */
  const mayTake = async () => {
    wanted = await seeWorker(sql, note);
    const threads = Math.min(wanted.threads ?? started, cores);
    if (threads !== note.threads) {
      note.threads = threads;
      filtering.threads = threads;
      studio.resize(threads);
      await place.resize(threads);
    }
    return !wanted.drained && (wanted.mark === null || wanted.mark === note.mark);
  };
  const run = async (asked: TrialJob['data'], signal: AbortSignal, free: () => void) => {
    const trial = 'denoise' in asked ? asked.denoise : asked.trial;
    await noteDoing(sql, note.id, trial).catch(() => {});
    try {
      await ('denoise' in asked ? denoises.run(asked.denoise, signal) : renders.run(asked.trial, signal, free));
    } finally {
      await noteDone(sql, note.id, trial).catch(() => {});
    }
  };
  await serve({ sql, queue, place, mayTake, run, signal: closing.signal });
  await Promise.all(delivering);
  clearInterval(beat);
  clearInterval(broom);
  studio.close();
  await leaveWorker(sql, note.id).catch(() => {});
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

/** `lantern runs`: the runs of every shot, and how far each is. */
async function runs(): Promise<void> {
  const sql = database();
  const lines: string[] = [];
  for (const { id, name } of await listShots(sql))
    for (const r of await listRuns(sql, id)) {
      const { all, done, failed } = r.counts;
      const state = isOver(r) ? 'over' : r.state;
      lines.push(
        `${name}  ${String(r.number).padStart(2, '0')}  ${state}  ${done} of ${all}${failed > 0 ? `, ${failed} failed` : ''}  frames ${r.frames}  ${r.folder}\n`,
      );
    }
  process.stdout.write(lines.length > 0 ? lines.join('') : 'there are no runs\n');
  await sql.end();
}

/** `lantern report`: a trial, one against another, or a run as an HTML file, here or on the standard output. */
async function report(): Promise<void> {
  const sql = database();
  const words = process.argv.slice(3);
  const isPiped = words.at(-1) === '-';
  const { html, name } = await askedReport(sql, isPiped ? words.slice(0, -1) : words, version);
  if (isPiped) await new Promise((resolve) => process.stdout.write(html, resolve));
  else {
    await writeWhole('.', name, [Buffer.from(html)]);
    process.stdout.write(`${name}\n`);
  }
  await sql.end();
}

const VERBS: Record<string, () => Promise<void>> = { queue: list, report, runs, worker: work };
const verb = process.argv[2] ?? 'worker';
(VERBS[verb] ?? work)().catch((error) => {
  process.stderr.write(`lantern ${verb}: ${faultWords(error)}\n`);
  process.exit(1);
});
