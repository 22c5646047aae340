import { type Db, PgBoss } from 'pg-boss';
import type { Sql } from '../db/connection';

/** The queue of trials to render. It holds only that a trial must be done; the trial row says what it is. */
export const TRIAL_QUEUE = 'trial';

export interface TrialJob {
  trial: string;
}

/** pg-boss on Postgres.js: values as it sends them, transactions in one string on a connection of their own. */
function adapter(sql: Sql): Db {
  return {
    async executeSql(text, values) {
      if (values && values.length > 0) {
        const rows = await sql.unsafe(text, values.map((v) => (v === undefined ? null : v)) as never[]);
        return { rows: [...rows] };
      }
      const connection = await sql.reserve();
      try {
        const result = (await connection.unsafe(text)) as unknown as unknown[];
        // Several statements give several results; the last that has rows is meant.
        const lists = Array.isArray(result[0]) ? (result as unknown[][]) : [result];
        const rows = lists.findLast((list) => list.length > 0) ?? [];
        return { rows: [...rows] };
      } finally {
        connection.release();
      }
    },
    async listen(channel, onNotification, onReconnect) {
      const handle = await sql.listen(channel, onNotification, onReconnect);
      return { close: () => handle.unlisten() };
    },
  };
}

/** A started queue. `supervise` makes it look for jobs whose worker has died; workers do, the web server need not. */
export async function openQueue(sql: Sql, supervise: boolean): Promise<PgBoss> {
  const boss = new PgBoss({
    db: adapter(sql),
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
