import type { LastDesk } from '@/contract/desk';
import type { Sql } from './connection';

/** What was last looked at, in whatever browser; null before the first. */
export async function lastDesk(sql: Sql): Promise<LastDesk | null> {
  const [row] = await sql<{ desk: LastDesk }[]>`select desk from last_desk`;
  return row?.desk ?? null;
}

export async function keepDesk(sql: Sql, desk: LastDesk): Promise<void> {
  await sql`insert into last_desk (desk) values (${sql.json(desk as never)}) on conflict (one) do update set desk = excluded.desk`;
}
