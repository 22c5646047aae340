import postgres from 'postgres';
import type { Event } from '@/contract/events';

export type Sql = postgres.Sql;

const holder = globalThis as unknown as { lanternSql?: Sql };

/** Lists that are sent or come back: the type of the list in PostgreSQL, and what a text of it stands for. */
const LISTS = [
  { type: 1009, value: String },
  { type: 2951, value: String },
  { type: 1016, value: String },
  { type: 1007, value: Number },
];

const listText = (list: unknown[]): string =>
  `{${list.map((v) => (v === null ? 'null' : `"${String(v).replace(/["\\]/g, '\\$&')}"`)).join(',')}}`;

const listOf = (text: string, value: (one: string) => unknown): unknown[] =>
  [...text.matchAll(/"((?:[^"\\]|\\.)*)"|[^,{}]+/g)].map(([plain, quoted]) => {
    if (quoted !== undefined) return value(quoted.replace(/\\(.)/g, '$1'));
    return plain === 'NULL' ? null : value(plain);
  });

/**
 * A client of a database. It does not ask for the server's types: the client library does that beside its other work, and a line
 * that is lost meanwhile would end the process.
 */
export const connect = (url: string, options: postgres.Options<Record<string, never>> = {}): Sql =>
  postgres(url, {
    fetch_types: false,
    types: Object.fromEntries(
      LISTS.map(({ type, value }) => [
        type,
        { to: type, from: [type], serialize: listText, parse: (text: string) => listOf(text, value) },
      ]),
    ) as never,
    onnotice: () => {},
    ...options,
  });

/** The process's one client. Throws when DATABASE_URL is not set. */
export function database(): Sql {
  if (holder.lanternSql) return holder.lanternSql;
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set: start with npm start, or name the database');
  holder.lanternSql = connect(url, {
    max: 8,
    idle_timeout: 60,
    connect_timeout: 5,
    connection: { application_name: 'lantern', statement_timeout: 60000 },
  });
  return holder.lanternSql;
}

/** A client of the same database with one connection of its own, which is never closed for its age. */
export const singleConnection = (sql: Sql, onclose?: () => void): Sql =>
  postgres({ ...sql.options, max: 1, idle_timeout: null, max_lifetime: null, onclose } as never);

export const CHANNEL = 'lantern';

/** Tells every listener that something changed. */
export async function announce(sql: Sql, event: Event): Promise<void> {
  await sql.notify(CHANNEL, JSON.stringify(event));
}
