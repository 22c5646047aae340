import { base64 } from './chunks';
import type { Sql } from './connection';
import { transaction } from './transaction';

/** Replaces the checkpoint of a film that is being rendered, by the identifier of its trial or frame. */
export async function saveCheckpoint(sql: Sql, id: string, bytes: number, chunks: Iterable<Uint8Array>): Promise<void> {
  await transaction(sql, async (tx) => {
    await tx`delete from checkpoint_chunk where trial_id = ${id}`;
    await tx`insert into checkpoint (trial_id, bytes) values (${id}, ${bytes})
             on conflict (trial_id) do update set bytes = excluded.bytes, saved_at = now()`;
    let n = 0;
    for (const data of chunks)
      await tx`insert into checkpoint_chunk (trial_id, n, data) values (${id}, ${n++}, decode(${base64(data)}, 'base64'))`;
  });
}

/** Bytes of a checkpoint; null when there is none. */
export async function checkpointBytes(sql: Sql, id: string): Promise<number | null> {
  const [row] = await sql<{ bytes: string }[]>`select bytes from checkpoint where trial_id = ${id}`;
  return row ? Number(row.bytes) : null;
}

/** One chunk of a checkpoint; null when it is missing. */
export async function checkpointChunk(sql: Sql, id: string, n: number): Promise<Uint8Array | null> {
  const [row] = await sql<{ data: Buffer }[]>`select data from checkpoint_chunk where trial_id = ${id} and n = ${n}`;
  return row?.data ?? null;
}

export async function dropCheckpoint(sql: Sql, id: string): Promise<void> {
  await sql`delete from checkpoint where trial_id = ${id}`;
  await sql`delete from checkpoint_chunk where trial_id = ${id}`;
}
