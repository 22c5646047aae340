import postgres from 'postgres';
import type { Event } from '@/contract/events';

export type Sql = postgres.Sql;

const holder = globalThis as unknown as { lanternSql?: Sql };

/** The process's one client. Throws when DATABASE_URL is not set. */
export function database(): Sql {
  if (holder.lanternSql) return holder.lanternSql;
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set: start with npm start, or name the database');
  holder.lanternSql = postgres(url, {
    max: 8,
    idle_timeout: 60,
    connect_timeout: 5,
    onnotice: () => {},
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
