import { PgBoss } from 'pg-boss';
import type { Sql } from '../db/connection';
import { queueAdapter } from '../db/queue-adapter';

/** The queue of trials to render. It holds only that a trial must be done; the trial row says what it is. */
export const TRIAL_QUEUE = 'trial';

export interface TrialJob {
  trial: string;
}

/** A started queue. `supervise` makes it look for jobs whose worker has died; workers do, the web server need not. */
export async function openQueue(sql: Sql, supervise: boolean): Promise<PgBoss> {
  const boss = new PgBoss({
    db: queueAdapter(sql),
    schema: 'queue',
    supervise,
    schedule: false,
    useListenNotify: supervise,
    superviseIntervalSeconds: 2,
    monitorIntervalSeconds: 2,
    reindex: false,
    monitorVacuum: false,
  });
  boss.on('error', (error) => process.stderr.write(`queue: ${(error as Error).message}\n`));
  await boss.start();
  await boss.createQueue(TRIAL_QUEUE, {
    notify: true,
    heartbeatSeconds: 10,
    retryLimit: 5,
    retryDelay: 0,
    expireInSeconds: 86000,
    deleteAfterSeconds: 86400,
  });
  return boss;
}

const holder = globalThis as unknown as { lanternQueue?: Promise<PgBoss> };

/** The web server's queue, for sending only. A failed start is tried again at the next call. */
export function sendingQueue(sql: Sql): Promise<PgBoss> {
  holder.lanternQueue ??= openQueue(sql, false).catch((error) => {
    holder.lanternQueue = undefined;
    throw error;
  });
  return holder.lanternQueue;
}
