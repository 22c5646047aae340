import { readdir, readFile } from 'node:fs/promises';
import type { Sql } from './connection';
import { transaction } from './transaction';

/** Applies the migrations that are not yet in the database, in order of name, each in a transaction. */
export async function migrate(sql: Sql, folder: URL): Promise<string[]> {
  await sql`create table if not exists migration (name text primary key, applied_at timestamptz not null default now())`;
  const files = (await readdir(folder)).filter((f) => f.endsWith('.sql')).sort();
  const applied: string[] = [];
  for (const name of files) {
    const text = await readFile(new URL(name, folder), 'utf8');
    await transaction(sql, async (tx) => {
      await tx`select pg_advisory_xact_lock(7311)`;
      const known = await tx`select 1 from migration where name = ${name}`;
      if (known.length > 0) return;
      await tx.unsafe(text);
      await tx`insert into migration (name) values (${name})`;
      applied.push(name);
    });
  }
  return applied;
}
