import type { Sql } from './connection';

/** Notes that a render worker on this machine is alive. */
export async function seeMachine(sql: Sql, name: string, cores: number): Promise<void> {
  await sql`insert into machine (name, cores) values (${name}, ${cores})
    on conflict (name) do update set cores = excluded.cores, seen_at = now()`;
}

/** Workers heard from in the last half minute. */
export async function liveMachines(sql: Sql): Promise<number> {
  const [row] = await sql<
    { n: number }[]
  >`select count(*)::int as n from machine where seen_at > now() - interval '30 seconds'`;
  return row.n;
}
