import { isAway } from './away';
import type { Sql } from './connection';

/** What is to be done in the same transaction as a change of something: both happen or neither. */
export type Inside = (tx: Sql, id: string) => Promise<void>;

/** What is to be done with jobs in the same transaction as a change of frames. */
export type InsideMany = (tx: Sql, frames: { id: string; priority: number }[]) => Promise<void>;

/** The same of frames whose jobs are to go from the queue. */
export type TakeBack = (tx: Sql, run: string) => Promise<void>;

/** How long an error of a lost line may precede the loss. */
const GRACE_MS = 2000;

/**
 * Runs statements as one transaction: all of them or none. They are to be awaited one after another, and `work` is to ask
 * nothing of another connection. When the connection is lost, nothing further is sent through it, not even what would roll
 * back, since the client would write to a socket that is gone and end the process.
 */
export async function transaction<T>(sql: Sql, work: (tx: Sql) => Promise<T>): Promise<T> {
  let lost = false;
  const never = new Promise<never>(() => {});
  try {
    return (await sql.begin((tx) => {
      const guarded = new Proxy(tx as unknown as Sql, {
        apply: (target, self, args) => {
          if (lost) throw Object.assign(new Error('the connection was lost'), { code: 'CONNECTION_CLOSED' });
          return Reflect.apply(target, self, args);
        },
      });
      return work(guarded).then(
        (value) => (lost ? never : value),
        async (error) => {
          // The client tells of the loss by itself, and first.
          if (isAway(error)) await new Promise((resolve) => setTimeout(resolve, GRACE_MS));
          if (lost) return never;
          throw error;
        },
      );
    })) as T;
  } catch (error) {
    lost = true;
    throw error;
  }
}

/** Does something while no other process that asks for the same key does. */
export async function oneAtATime<T>(sql: Sql, key: number, work: () => Promise<T>): Promise<T> {
  return transaction(sql, async (tx) => {
    await tx`select pg_advisory_xact_lock(${key})`;
    return work();
  });
}
