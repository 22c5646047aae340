import { createHash } from 'node:crypto';
import type { Worker } from '@/contract/worker';
import { type Sql, singleConnection } from './connection';

/** What a worker tells of itself. */
export interface WorkerNote {
  id: string;
  machine: string;
  cores: number;
  threads: number;
  /** What it was built from. */
  mark: string;
  /** Whether it puts files into the folders of runs, which are on its machine. */
  delivers: boolean;
}

/** What a page has set for a machine, and what the server was built from; null mark where no server has been started yet. */
export interface Wanted {
  threads: number | null;
  drained: boolean;
  mark: string | null;
}

/** Notes that a worker is alive; what is wanted of it. */
export async function seeWorker(sql: Sql, w: WorkerNote): Promise<Wanted> {
  await sql`insert into machine (name, cores) values (${w.machine}, ${w.cores})
    on conflict (name) do update set cores = excluded.cores, seen_at = now()`;
  await sql`insert into worker (id, machine, threads, mark, delivers) values (${w.id}, ${w.machine}, ${w.threads}, ${w.mark}, ${w.delivers})
    on conflict (id) do update set threads = excluded.threads, seen_at = now()`;
  const [row] = await sql<Wanted[]>`
    select threads, drained, (select mark from house) as mark from machine where name = ${w.machine}`;
  return row;
}

/** Notes which trial or frame a worker renders. */
export async function noteDoing(sql: Sql, id: string, trial: string): Promise<void> {
  await sql`update worker set trial_id = ${trial}, seen_at = now() where id = ${id}`;
}

/** Notes that a worker is done with it, and how fast it was. */
export async function noteDone(sql: Sql, id: string, trial: string): Promise<void> {
  await sql`update worker set trial_id = nullif(trial_id, ${trial}), seen_at = now(), speed = coalesce(
      (select (seconds ->> 'calibrated')::float8 / nullif((seconds ->> 'trace')::float8, 0) from trial where id = ${trial}), speed)
    where id = ${id}`;
}

/** A worker that ends. */
export async function leaveWorker(sql: Sql, id: string): Promise<void> {
  await sql`delete from worker where id = ${id}`;
}

/** Notes what the server was built from. */
export async function noteHouse(sql: Sql, mark: string): Promise<void> {
  await sql`insert into house (mark) values (${mark}) on conflict (one) do update set mark = excluded.mark`;
}

/** Seconds after which a worker that was not heard of counts as gone. */
const GONE_SECONDS = 30;

/** Workers heard from in the last half minute. */
export async function liveWorkers(sql: Sql): Promise<number> {
  const [row] = await sql<{ n: number }[]>`
    select count(*)::int as n from worker w join machine m on m.name = w.machine
    where w.seen_at > now() - ${GONE_SECONDS} * interval '1 second' and not m.drained
      and w.mark = coalesce((select mark from house), w.mark)`;
  return row.n;
}

/** Whether any worker heard from in the last half minute puts files into the folders of runs. */
export async function isDelivering(sql: Sql): Promise<boolean> {
  const [row] = await sql<{ is: boolean }[]>`
    select exists (select 1 from worker where delivers and seen_at > now() - ${GONE_SECONDS} * interval '1 second') as is`;
  return row.is;
}

/** All workers that were heard of lately, by machine, with what each does. Those long gone are forgotten. */
export async function listWorkers(sql: Sql): Promise<Worker[]> {
  await sql`delete from worker where seen_at < now() - interval '10 minutes'`;
  return sql<Worker[]>`
    select w.id, w.machine, m.cores, w.threads, m.threads as "wantedThreads", m.drained, w.speed,
           extract(epoch from now() - w.seen_at)::float8 as "seenSeconds",
           w.seen_at < now() - ${GONE_SECONDS} * interval '1 second' as gone,
           w.mark <> coalesce((select mark from house), w.mark) as "isOther", left(w.mark, 8) as mark,
           case when t.id is not null then jsonb_build_object('shot', s.name, 'run', r.number, 'frame', t.frame, 'number', t.number, 'fraction', t.fraction) end as doing
    from worker w join machine m on m.name = w.machine
    left join trial t on t.id = w.trial_id left join run r on r.id = t.run_id left join shot s on s.id = t.shot_id
    order by w.machine, w.id`;
}

/** Sets how many threads render on a machine, or whether it takes work; false when it is not known. */
export async function setMachine(
  sql: Sql,
  name: string,
  { threads, drained }: { threads?: number | null; drained?: boolean },
): Promise<boolean> {
  const rows = await sql`
    update machine set threads = ${threads === undefined ? sql`threads` : threads}, drained = coalesce(${drained ?? null}, drained)
    where name = ${name} returning name`;
  return rows.length > 0;
}

/**
 * A machine's places for rendering, one a core. A worker that took as many as it has threads has them until it gives them back or
 * ends, so that several workers never render on more threads than there are cores; when it loses the database it has to take them
 * again.
 */
export class MachinePlace {
  private held: number[] = [];
  private readonly own: Sql;
  private readonly key: number;

  constructor(
    sql: Sql,
    machine: string,
    private readonly cores = 1,
    private threads = cores,
  ) {
    this.own = singleConnection(sql, () => {
      this.held = [];
    });
    this.key = createHash('sha256').update(machine).digest().readUInt32BE() >>> 4;
  }

  private get wanted(): number {
    return Math.max(1, Math.min(this.threads, this.cores));
  }

  /** Takes another number of places from the next time on; those it has are given back. */
  async resize(threads: number): Promise<void> {
    if (threads === this.threads) return;
    this.threads = threads;
    await this.giveBack();
  }

  private async giveBack(): Promise<void> {
    const held = this.held;
    this.held = [];
    for (const seat of held) await this.own`select pg_advisory_unlock(${SEATS + seat}, ${this.key})`;
  }

  /** Whether this worker has its places, having taken them where enough were free. */
  async take(): Promise<boolean> {
    if (this.held.length === this.wanted) return true;
    // One worker at a time looks for places, so that none holds a part of them while another waits for that.
    await this.own`select pg_advisory_lock(${SEATS - 1}, ${this.key})`;
    try {
      const held: number[] = [];
      for (let seat = 0; seat < this.cores && held.length < this.wanted; seat++) {
        const [row] = await this.own<
          { got: boolean }[]
        >`select pg_try_advisory_lock(${SEATS + seat}, ${this.key}) as got`;
        if (row.got) held.push(seat);
      }
      this.held = held;
      if (held.length === this.wanted) return true;
      await this.giveBack();
      return false;
    } finally {
      await this.own`select pg_advisory_unlock(${SEATS - 1}, ${this.key})`;
    }
  }

  async close(): Promise<void> {
    await this.own.end({ timeout: 2 });
  }
}

/** Of the keys of advisory locks, those of places. */
const SEATS = 731200;
