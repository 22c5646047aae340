import { base64 } from './chunks';
import type { Sql } from './connection';
import { transaction } from './transaction';

/** Notes that content is wanted again, so that it is not swept up; its bytes, null when it is not there. */
export async function touchBlob(sql: Sql, hash: string): Promise<number | null> {
  const [row] = await sql<{ bytes: string }[]>`update blob set created_at = now() where hash = ${hash} returning bytes`;
  return row ? Number(row.bytes) : null;
}

/** Bytes of some content by its hash; null when it is not there. */
export async function blobBytes(sql: Sql, hash: string): Promise<number | null> {
  const [row] = await sql<{ bytes: string }[]>`select bytes from blob where hash = ${hash}`;
  return row ? Number(row.bytes) : null;
}

/** One chunk of some content. */
export async function blobChunk(sql: Sql, hash: string, n: number): Promise<Uint8Array> {
  const [row] = await sql<{ data: Buffer }[]>`select data from blob_chunk where hash = ${hash} and n = ${n}`;
  if (!row) throw new Error(`blob ${hash.slice(0, 12)} lacks chunk ${n}`);
  return row.data;
}

/**
 * Puts content in as it comes, in one transaction: all of it or nothing. `finish` is called when all chunks have been sent, and
 * gives the content's hash, under which it then is; it may throw to give up. `expected` is the hash where it is known before:
 * content that somebody else puts in meanwhile is not sent twice.
 */
export async function insertBlob(
  sql: Sql,
  chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  expected: string | null,
  finish: () => { hash: string; bytes: number },
): Promise<void> {
  await transaction(sql, async (tx) => {
    const [{ unique }] = await tx<{ unique: string }[]>`
      select replace(gen_random_uuid()::text || gen_random_uuid()::text, '-', '') as unique`;
    const key = expected ?? unique;
    const made = await tx`insert into blob (hash, bytes) values (${key}, 0) on conflict do nothing returning hash`;
    if (made.length === 0) return;
    let n = 0;
    for await (const data of chunks)
      await tx`insert into blob_chunk (hash, n, data) values (${key}, ${n++}, decode(${base64(data)}, 'base64'))`;
    const { hash, bytes } = finish();
    if (hash === key) {
      await tx`update blob set bytes = ${bytes} where hash = ${key}`;
      return;
    }
    const first =
      await tx`insert into blob (hash, bytes) values (${hash}, ${bytes}) on conflict do nothing returning hash`;
    // The chunks get their name now that it is known; their data stays where it lies.
    if (first.length > 0) await tx`update blob_chunk set hash = ${hash} where hash = ${key}`;
    await tx`delete from blob where hash = ${key}`;
  });
}

/** Of some hashes, those of which there is no content. */
export async function missingBlobs(sql: Sql, hashes: string[]): Promise<string[]> {
  const rows = await sql<
    { hash: string }[]
  >`select hash from blob where hash in ${sql(hashes.length > 0 ? hashes : [''])}`;
  const known = new Set(rows.map((r) => r.hash));
  return hashes.filter((h) => !known.has(h));
}

/** Bytes of all that is stored: films and other content, and what stopped work needs to go on. */
export async function storedBytes(sql: Sql): Promise<number> {
  const [row] = await sql<
    { bytes: string }[]
  >`select (select coalesce(sum(bytes), 0) from blob) + (select coalesce(sum(bytes), 0) from checkpoint) as bytes`;
  return Number(row.bytes);
}

/**
 * Deletes content that was put in so many days ago and that nothing refers to: no scene or draft, no film of a trial.
 * Returns how much went.
 */
export async function sweepBlobs(sql: Sql, days: number): Promise<number> {
  const gone = await sql`
    with used as (
      select geometry as hash from scene_revision
      union select film from trial where film is not null
      union select result from denoised where result is not null
      union select hash from run_file join run on run.id = run_id where placed_at is null and run.removed_at is null
      union select (regexp_matches(document::text, '[0-9a-f]{64}', 'g'))[1] from scene_revision
      union select (regexp_matches(scene::text, '[0-9a-f]{64}', 'g'))[1] from draft where scene is not null
    )
    delete from blob where created_at < now() - ${days} * interval '1 day'
      and not exists (select 1 from used where used.hash = blob.hash) returning hash`;
  return gone.length;
}
