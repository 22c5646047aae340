import type { Sql } from './connection';

/** A file of a run as it was packed. */
export interface PackedFile {
  name: string;
  output: string;
  layers: string[];
  bytes: number;
  hash: string;
}

/** Notes what was packed of a frame, in place of what was packed of it before. */
export async function notePacked(tx: Sql, run: string, trial: string, files: readonly PackedFile[]): Promise<void> {
  for (const f of files)
    await tx`insert into run_file (run_id, trial_id, name, output, layers, bytes, hash)
      values (${run}, ${trial}, ${f.name}, ${f.output}, ${tx.json(f.layers)}, ${f.bytes}, ${f.hash})
      on conflict (run_id, name) do update set trial_id = excluded.trial_id, output = excluded.output, layers = excluded.layers,
        bytes = excluded.bytes, hash = excluded.hash, placed_at = null, fault = null`;
}

/** A file that waits to be put into its run's folder. */
export interface WaitingFile {
  run: string;
  shot: string;
  name: string;
  folder: string;
  hash: string;
  bytes: number;
  /** Hash of what this run put there under that name before; null where it has not. */
  placedHash: string | null;
  overwrites: boolean;
}

/** Files that wait for their folder, the first packed first. */
export async function waitingFiles(sql: Sql, most: number): Promise<WaitingFile[]> {
  const rows = await sql<WaitingFile[]>`
    select run.id as run, run.shot_id as shot, name, folder, hash, bytes::float8 as bytes, placed_hash as "placedHash", overwrites
    from run_file join run on run.id = run_id
    where placed_at is null and fault is null and removed_at is null order by run.created_at, name limit ${most}`;
  return rows;
}

/** Where other runs have put the same content. */
export async function placedElsewhere(
  sql: Sql,
  { run, hash }: WaitingFile,
): Promise<{ folder: string; name: string }[]> {
  return sql`
    select folder, name from run_file join run on run.id = run_id
    where hash = ${hash} and placed_at is not null and run_id <> ${run} limit 20`;
}

/** Notes that a file lies in its folder, and lets go of the copy that was kept until then. */
export async function notePlaced(sql: Sql, { run, name, hash }: WaitingFile): Promise<void> {
  await sql`update run_file set placed_at = now(), placed_hash = ${hash} where run_id = ${run} and name = ${name} and hash = ${hash}`;
  await sql`delete from blob where hash = ${hash} and not exists (select 1 from run_file f where f.hash = ${hash} and f.placed_at is null)
    and not exists (select 1 from trial where film = ${hash}) and not exists (select 1 from denoised where result = ${hash})`;
}

export async function noteNotPlaced(sql: Sql, { run, name }: WaitingFile, fault: string): Promise<void> {
  await sql`update run_file set fault = ${fault} where run_id = ${run} and name = ${name}`;
}

/** Has files tried again that could not be put into the folder; `overwrites` lets them take the place of others' files. */
export async function placeAgain(sql: Sql, run: string, overwrites: boolean): Promise<void> {
  if (overwrites) await sql`update run set overwrites = true where id = ${run}`;
  await sql`update run_file set fault = null where run_id = ${run} and placed_at is null`;
}

/** A file of a run as its manifest tells it. */
export interface FileLine {
  name: string;
  output: string;
  frame: number;
  layers: string[];
  bytes: number;
  sha256: string;
  trial: string;
  placed: boolean;
}

/** Files of a run by name, with where they come from. */
export async function filesOfRun(sql: Sql, run: string): Promise<FileLine[]> {
  return sql<FileLine[]>`
    select f.name, f.output, t.frame, f.layers, f.bytes::float8 as bytes, f.hash as sha256, t.id as trial, f.placed_at is not null as placed
    from run_file f join trial t on t.id = f.trial_id where f.run_id = ${run} order by f.name`;
}

/** Files of one frame, and the folder that they are for. */
export async function filesOfFrame(
  sql: Sql,
  trial: string,
): Promise<{ name: string; output: string; hash: string; layers: string[]; folder: string }[]> {
  return sql`
    select name, output, hash, layers, folder from run_file join run on run.id = run_id where trial_id = ${trial} order by name`;
}

/** What a run's manifest tells of its frames. */
export async function framesRendered(
  sql: Sql,
  run: string,
): Promise<
  { frame: number; picture: number; noise: number | null; seconds: number; machine: string | null; at: string }[]
> {
  return sql`
    select frame, picture, noise -> 'rms' as noise, (seconds ->> 'trace')::float8 as seconds, machine, finished_at as at
    from trial where run_id = ${run} and state = 'done' order by frame, picture`;
}
