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
    connect_timeout: 5,
    onnotice: () => {},
    connection: { application_name: 'lantern', statement_timeout: 60000 },
  });
  return holder.lanternSql;
}

/** Whether an error means that the database cannot be reached, rather than that a query is wrong. */
export function isAway(error: unknown): boolean {
  const code = (error as { code?: string }).code ?? '';
  return /^(CONNECT|CONNECTION_|ECONN|ETIMEDOUT|EPIPE|57P0|08)/.test(code);
}

export const CHANNEL = 'lantern';

/** Tells every listener that something changed. */
export async function announce(sql: Sql, event: Event): Promise<void> {
  await sql.notify(CHANNEL, JSON.stringify(event));
}
