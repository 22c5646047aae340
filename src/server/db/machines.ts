import { createHash } from 'node:crypto';
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

/** Runs some work while no other worker of the same machine runs any. */
export async function withMachineLock<T>(sql: Sql, machine: string, work: () => Promise<T>): Promise<T> {
  const lock = await sql.reserve();
  const key = createHash('sha256').update(machine).digest().readUInt32BE() >>> 4;
  try {
    await lock`select pg_advisory_lock(7312, ${key})`;
    return await work();
  } finally {
    await lock`select pg_advisory_unlock(7312, ${key})`.catch(() => {});
    lock.release();
  }
}
