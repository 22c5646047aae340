import { z } from 'zod';
import { faultWords, patiently } from '../db/away';
import type { Sql } from '../db/connection';
import type { MachinePlace } from '../db/workers';
import { Bell } from './bell';
import { BEAT_MS, type TrialJob, type TrialQueue } from './queue';

/** How long a worker that hears of nothing waits before it looks again. */
const IDLE_MS = 1000;
/** How often stranded trials are looked for. */
const ADOPT_MS = 60000;

const queued = z.union([
  z.object({ type: z.literal('trial'), state: z.literal('queued') }),
  z.object({ type: z.literal('run'), frames: z.literal(true) }),
]);

export interface Work {
  sql: Sql;
  queue: TrialQueue;
  place: MachinePlace;
  /** Asked before each job: whether it is to take one. A machine may be drained, or the worker be of another build. */
  mayTake?: () => Promise<boolean>;
  /**
   * Renders a trial or denoises its film; throws when it is to be taken up again. `free` may be called once the next job can be
   * begun beside what is left to do.
   */
  run: (asked: TrialJob['data'], signal: AbortSignal, free: () => void) => Promise<void>;
  /** Ends the work; what is being rendered is kept as far as it is. */
  signal: AbortSignal;
}

/**
 * Takes jobs one after another until it is told to end. A job is taken only by the worker that has its machine's place, so
 * that a machine renders on no more threads than it has cores and none waits in the hands of a worker that waits itself. A database that is away
 * is waited for.
 */
export async function serve({ sql, queue, place, mayTake = async () => true, run, signal }: Work): Promise<void> {
  const bell = await Bell.hung(sql, signal, (news) => queued.safeParse(news).success);
  let adopted = Number.NEGATIVE_INFINITY;

  const next = async (): Promise<TrialJob | null> => {
    if (!(await mayTake()) || !(await place.take())) return null;
    if (performance.now() - adopted > ADOPT_MS) {
      await queue.adopt();
      adopted = performance.now();
    }
    return queue.take();
  };
  /** What is left of the job before, which is done beside the next. */
  let finishing: Promise<void> = Promise.resolve();
  const whole = async (job: TrialJob, free: () => void) => {
    const beat = setInterval(() => {
      queue.beat(job).catch(() => {});
      place.take().catch(() => {});
    }, BEAT_MS);
    try {
      const fault = await run(job.data, signal, free).then(
        () => null,
        (error) => faultWords(error),
      );
      await patiently(signal, () => (fault === null ? queue.done(job) : queue.giveBack(job, fault)));
    } finally {
      clearInterval(beat);
    }
  };
  const work = async (job: TrialJob) => {
    let free = () => {};
    const freed = new Promise<void>((resolve) => {
      free = resolve;
    });
    const all = whole(job, free);
    await Promise.race([freed, all]);
    // No more than one is finished beside another: each holds its film.
    await finishing;
    finishing = all;
    all.catch(() => {});
  };
  while (!signal.aborted) {
    try {
      const job = await next();
      if (job) await work(job);
      else await bell.wait(IDLE_MS);
    } catch (error) {
      if (!signal.aborted) process.stderr.write(`worker: ${faultWords(error)}\n`);
      await bell.wait(IDLE_MS);
    }
  }
  await finishing.catch(() => {});
  await bell.close();
}
