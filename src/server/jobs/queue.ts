import { type Job, PgBoss } from 'pg-boss';
import { announce, type Sql, singleConnection } from '../db/connection';
import { strandedDenoised } from '../db/denoised';
import { newId } from '../db/ids';
import { queueAdapter, queueInside } from '../db/queue-adapter';
import { type Inside, type InsideMany, oneAtATime, type TakeBack, transaction } from '../db/transaction';
import { strandedFrames, strandedTrials } from '../db/trial-life';

/** The queue of trials to render. It holds only that a trial must be done; the trial row says what it is. */
const TRIALS = 'trial';
/** Keys under which one process at a time makes the queue, and looks for stranded trials. */
const MAKING = 7313;
const ADOPTING = 7314;

/** What comes before what: the greater first, and among equals what was asked for first. */
const PRIORITY = { denoising: 20, urgent: 15, trial: 10, frame: 5, last: 0 } as const;
/** Priority of a frame of a run before all that waits but denoising. */
export const URGENT = PRIORITY.urgent - PRIORITY.frame;

/** What is to be rendered, or whose film is to be denoised. */
type Asked = { trial: string } | { denoise: string };
export type TrialJob = Job<Asked>;

/** A job whose worker has not been heard of for this long is given to another. */
const SILENCE_SECONDS = 10;
export const BEAT_MS = 3000;

/** Jobs that are put into the queue in one statement. */
const AT_ONCE = 1000;

const OPTIONS = {
  heartbeatSeconds: SILENCE_SECONDS,
  // How often a trial is tried is counted with the trial, where what it kept is known.
  retryLimit: 10000,
  retryDelay: 0,
  expireInSeconds: 86000,
  deleteAfterSeconds: 86400,
};

/** Jobs in PostgreSQL that any number of workers share. */
export class TrialQueue {
  private constructor(
    private readonly sql: Sql,
    private readonly single: Sql,
    private readonly boss: PgBoss,
  ) {}

  /** `supervise` makes it look for jobs whose worker has died; workers do, the web server need not. */
  static async open(sql: Sql, supervise: boolean): Promise<TrialQueue> {
    const single = singleConnection(sql);
    const boss = new PgBoss({
      db: queueAdapter(sql, single),
      schema: 'queue',
      supervise,
      schedule: false,
      superviseIntervalSeconds: 2,
      monitorIntervalSeconds: 2,
      reindex: false,
      monitorVacuum: false,
    });
    boss.on('error', (error) => process.stderr.write(`queue: ${(error as Error).message}\n`));
    try {
      await oneAtATime(sql, MAKING, async () => {
        await boss.start();
        await boss.createQueue(TRIALS, OPTIONS);
        await boss.updateQueue(TRIALS, OPTIONS);
      });
    } catch (error) {
      await boss.stop({ graceful: false }).catch(() => {});
      await single.end({ timeout: 1 });
      throw error;
    }
    return new TrialQueue(sql, single, boss);
  }

  /** Asks for a trial to be rendered, within a transaction. */
  readonly add: Inside = async (tx, trial) => {
    await this.boss.send(TRIALS, { trial }, { db: queueInside(tx), priority: PRIORITY.trial });
  };

  /** Asks for a trial's film to be denoised: before trials that wait, since it is soon done and somebody looks at it. */
  readonly addDenoising: Inside = async (tx, trial) => {
    await this.boss.send(TRIALS, { denoise: trial }, { db: queueInside(tx), priority: PRIORITY.denoising });
  };

  /** Asks for one that nobody waits for: after all that somebody does. */
  readonly addLast: Inside = async (tx, trial) => {
    await this.boss.send(TRIALS, { trial }, { db: queueInside(tx), priority: PRIORITY.last });
  };

  /** Asks for frames of runs, in this order, within a transaction. */
  readonly addFrames: InsideMany = async (tx, frames) => {
    const now = Date.now();
    // Among equals the queue goes by identifiers, which rise.
    const jobs = frames.map(({ id, priority }, i) => ({
      id: newId(now + i),
      data: { trial: id },
      priority: PRIORITY.frame + priority,
    }));
    for (let k = 0; k < jobs.length; k += AT_ONCE)
      await this.boss.insert(TRIALS, jobs.slice(k, k + AT_ONCE), { db: queueInside(tx) });
  };

  /** Takes frames of a run that wait out of the queue, within a transaction. */
  readonly takeBack: TakeBack = async (tx, run) => {
    await tx`delete from queue.job j using trial where j.name = ${TRIALS} and j.state in ('created', 'retry')
      and trial.run_id = ${run} and j.data ->> 'trial' = trial.id::text`;
  };

  /** The job that has waited longest, which is this process's from now on; null when none waits. */
  async take(): Promise<TrialJob | null> {
    return (await this.boss.fetch<Asked>(TRIALS))[0] ?? null;
  }

  /** Tells that a job is still worked at. */
  async beat(job: TrialJob): Promise<void> {
    await this.boss.touch(TRIALS, job);
  }

  async done(job: TrialJob): Promise<void> {
    await this.boss.complete(TRIALS, job);
  }

  /** Gives a job back, to be taken again at once. */
  async giveBack(job: TrialJob, why: string): Promise<void> {
    await this.boss.fail(TRIALS, job, { why });
  }

  /** Asks again for trials that wait for their end while the queue knows nothing of them; how many there were. */
  async adopt(): Promise<number> {
    return oneAtATime(this.sql, ADOPTING, async () => {
      const stranded = await strandedTrials(this.sql);
      for (const trial of stranded) await this.boss.send(TRIALS, { trial }, { priority: PRIORITY.trial });
      const frames = await strandedFrames(this.sql);
      await transaction(this.sql, (tx) => this.addFrames(tx, frames));
      const denoised = await strandedDenoised(this.sql);
      for (const denoise of denoised) await this.boss.send(TRIALS, { denoise });
      return stranded.length + frames.length + denoised.length;
    });
  }

  async close(): Promise<void> {
    await this.boss.stop({ graceful: false }).catch(() => {});
    await this.single.end({ timeout: 2 });
  }
}

const holder = globalThis as unknown as { lanternQueue?: Promise<TrialQueue> };

/** The web server's queue, for sending only. A failed start is tried again at the next call. */
export function sendingQueue(sql: Sql): Promise<TrialQueue> {
  holder.lanternQueue ??= TrialQueue.open(sql, false).catch((error) => {
    holder.lanternQueue = undefined;
    throw error;
  });
  return holder.lanternQueue;
}

/** Tells workers and pages that a trial waits. */
export const ring = (sql: Sql, id: string, shot: string) => announce(sql, { type: 'trial', id, shot, state: 'queued' });
