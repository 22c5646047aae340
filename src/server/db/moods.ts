import type { Balance } from '@/core/film';
import type { Sql } from './connection';
import { newId } from './ids';

export interface MoodRow {
  id: string;
  name: string;
  balance: Balance;
}

export async function listMoods(sql: Sql, trial: string): Promise<MoodRow[]> {
  return sql<MoodRow[]>`select id, name, balance from mood where trial_id = ${trial} order by created_at`;
}

/** Keeps a mood under its name, replacing one of the same name. */
export async function putMood(sql: Sql, trial: string, name: string, balance: Balance): Promise<MoodRow> {
  const [row] = await sql<MoodRow[]>`
    insert into mood (id, trial_id, name, balance) values (${newId()}, ${trial}, ${name}, ${sql.json(balance as never)})
    on conflict (trial_id, name) do update set balance = excluded.balance returning id, name, balance`;
  return row;
}

export async function removeMood(sql: Sql, trial: string, name: string): Promise<boolean> {
  const rows = await sql`delete from mood where trial_id = ${trial} and name = ${name} returning id`;
  return rows.length > 0;
}
