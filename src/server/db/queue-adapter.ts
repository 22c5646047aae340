import type { Db } from 'pg-boss';
import type { Sql } from './connection';

/**
 * pg-boss on Postgres.js: values as it sends them. Texts without values may be whole transactions and need one connection to
 * themselves: `single` has but one, and takes one text after another.
 */
export function queueAdapter(sql: Sql, single: Sql): Db {
  let before: Promise<unknown> = Promise.resolve();
  const alone = async (text: string) => {
    try {
      return (await single.unsafe(text)) as unknown as unknown[];
    } catch (error) {
      // What broke off in the middle of its own transaction.
      await single.unsafe('rollback').catch(() => {});
      throw error;
    }
  };
  return {
    async executeSql(text, values) {
      if (values && values.length > 0) {
        const rows = await sql.unsafe(text, values.map((v) => (v === undefined ? null : v)) as never[]);
        return { rows: [...rows] };
      }
      const mine = before.then(() => alone(text));
      before = mine.catch(() => {});
      const result = await mine;
      // Several statements give several results; the last that has rows is meant.
      const lists = Array.isArray(result[0]) ? (result as unknown[][]) : [result];
      return { rows: [...(lists.findLast((list) => list.length > 0) ?? [])] };
    },
    async listen(channel, onNotification, onReconnect) {
      const handle = await sql.listen(channel, onNotification, onReconnect);
      return { close: () => handle.unlisten() };
    },
  };
}

/** The queue's statements inside a transaction. */
export const queueInside = (tx: Sql): Pick<Db, 'executeSql'> => ({
  async executeSql(text, values = []) {
    const rows = await tx.unsafe(text, values.map((v) => (v === undefined ? null : v)) as never[]);
    return { rows: [...rows] };
  },
});
