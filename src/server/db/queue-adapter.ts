import type { Db } from 'pg-boss';
import type { Sql } from './connection';

/** pg-boss on Postgres.js: values as it sends them, transactions in one string on a connection of their own. */
export function queueAdapter(sql: Sql): Db {
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
