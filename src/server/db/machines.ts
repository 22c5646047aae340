import { createHash } from 'node:crypto';
import { type Sql, singleConnection } from './connection';

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

/**
 * A machine's one place for rendering. The worker that took it has it until it gives it back or ends; when it loses the
 * database it has to take it again.
 */
export class MachinePlace {
  private held = false;
  private readonly own: Sql;
  private readonly key: number;

  constructor(sql: Sql, machine: string) {
    this.own = singleConnection(sql, () => {
      this.held = false;
    });
    this.key = createHash('sha256').update(machine).digest().readUInt32BE() >>> 4;
  }

  /** Whether this worker has the place, having taken it where it was free. */
  async take(): Promise<boolean> {
    if (!this.held) {
      const [row] = await this.own<{ got: boolean }[]>`select pg_try_advisory_lock(7312, ${this.key}) as got`;
      this.held = row.got;
    }
    return this.held;
  }

  async close(): Promise<void> {
    await this.own.end({ timeout: 2 });
  }
}
