import { createHash } from 'node:crypto';
import { type ByteSource, ExrError } from '@/core/exr';
import type { Sql } from '../db/connection';

/** Bytes of one stored chunk. */
export const CHUNK_BYTES = 1 << 20;

const COPY_HEADER = Buffer.concat([Buffer.from('PGCOPY\n\xff\r\n\0', 'latin1'), Buffer.alloc(8)]);

/** One row of a binary COPY: text key, integer, bytes. */
function copyRow(key: Buffer, n: number, data: Uint8Array): Buffer {
  const head = Buffer.alloc(2 + 4 + key.length + 8 + 4);
  head.writeInt16BE(3, 0);
  head.writeInt32BE(key.length, 2);
  key.copy(head, 6);
  head.writeInt32BE(4, 6 + key.length);
  head.writeInt32BE(n, 10 + key.length);
  head.writeInt32BE(data.length, 14 + key.length);
  return Buffer.concat([head, data]);
}

/** Copies chunks into `table` (key, n, data) by binary COPY, on a connection inside a transaction. */
async function copyChunks(
  tx: Sql,
  table: 'blob_chunk' | 'checkpoint_chunk',
  column: 'hash' | 'trial_id',
  key: Buffer,
  chunks: Iterable<Uint8Array> | AsyncIterable<Uint8Array>,
): Promise<void> {
  const stream = await tx.unsafe(`copy ${table} (${column}, n, data) from stdin (format binary)`).writable();
  await new Promise<void>((resolve, reject) => {
    stream.on('error', reject);
    stream.on('finish', resolve);
    const write = async () => {
      stream.write(COPY_HEADER);
      let n = 0;
      for await (const data of chunks)
        if (!stream.write(copyRow(key, n++, data))) await new Promise((r) => stream.once('drain', r));
      stream.end(Buffer.from([0xff, 0xff]));
    };
    write().catch((error) => stream.destroy(error));
  });
}

function* chunksOf(bytes: Uint8Array): Generator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += CHUNK_BYTES) yield bytes.subarray(at, at + CHUNK_BYTES);
}

/** A stream cut anew into chunks of the stored size. */
async function* rechunked(stream: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let chunk = new Uint8Array(CHUNK_BYTES);
  let filled = 0;
  for await (const part of stream)
    for (let at = 0; at < part.length; ) {
      const take = Math.min(part.length - at, CHUNK_BYTES - filled);
      chunk.set(part.subarray(at, at + take), filled);
      filled += take;
      at += take;
      if (filled < CHUNK_BYTES) continue;
      yield chunk;
      chunk = new Uint8Array(CHUNK_BYTES);
      filled = 0;
    }
  if (filled > 0) yield chunk.subarray(0, filled);
}

/** Stores bytes once by their SHA-256 and returns it. */
export async function putBlob(sql: Sql, bytes: Uint8Array): Promise<string> {
  const hash = createHash('sha256').update(bytes).digest('hex');
  const known = await sql`select 1 from blob where hash = ${hash}`;
  if (known.length > 0) return hash;
  await sql.begin(async (tx) => {
    const made =
      await tx`insert into blob (hash, bytes) values (${hash}, ${bytes.length}) on conflict do nothing returning hash`;
    if (made.length > 0)
      await copyChunks(tx as unknown as Sql, 'blob_chunk', 'hash', Buffer.from(hash), chunksOf(bytes));
  });
  return hash;
}

export class TooLarge extends Error {}
/** Content that is not what was promised. */
export class WrongDigest extends Error {}

/**
 * Stores a stream, at most `most` bytes; all or nothing. With its SHA-256 `promised` it goes into the database as it
 * comes, a chunk at a time; without, it is gathered first. Throws `TooLarge` or `WrongDigest`.
 */
export async function putStream(
  sql: Sql,
  stream: AsyncIterable<Uint8Array>,
  most: number,
  promised: string | null = null,
): Promise<{ hash: string; bytes: number }> {
  const digest = createHash('sha256');
  let bytes = 0;
  async function* counted(): AsyncGenerator<Uint8Array> {
    for await (const part of stream) {
      bytes += part.length;
      if (bytes > most) throw new TooLarge(`more than ${most} bytes`);
      digest.update(part);
      yield part;
    }
  }
  if (promised === null) {
    const parts: Uint8Array[] = [];
    for await (const part of counted()) parts.push(part);
    return { hash: await putBlob(sql, Buffer.concat(parts)), bytes };
  }
  const known = await blobBytes(sql, promised);
  if (known !== null) return { hash: promised, bytes: known };
  await sql.begin(async (tx) => {
    const made = await tx`insert into blob (hash, bytes) values (${promised}, 0) on conflict do nothing returning hash`;
    // Somebody else stored it meanwhile.
    if (made.length === 0) return;
    await copyChunks(tx as unknown as Sql, 'blob_chunk', 'hash', Buffer.from(promised), rechunked(counted()));
    if (digest.digest('hex') !== promised) throw new WrongDigest('the content is not what its digest says');
    await tx`update blob set bytes = ${bytes} where hash = ${promised}`;
  });
  return { hash: promised, bytes: bytes || (await blobBytes(sql, promised))! };
}

export async function blobBytes(sql: Sql, hash: string): Promise<number | null> {
  const [row] = await sql<{ bytes: string }[]>`select bytes from blob where hash = ${hash}`;
  return row ? Number(row.bytes) : null;
}

async function chunk(sql: Sql, hash: string, n: number): Promise<Uint8Array> {
  const [row] = await sql<{ data: Buffer }[]>`select data from blob_chunk where hash = ${hash} and n = ${n}`;
  if (!row) throw new Error(`blob ${hash.slice(0, 12)} lacks chunk ${n}`);
  return row.data;
}

/** The chunks of a blob in order, the next one fetched while one is in use. */
export async function* readChunks(sql: Sql, hash: string, bytes: number): AsyncGenerator<Uint8Array> {
  const count = Math.ceil(bytes / CHUNK_BYTES);
  let next = count > 0 ? chunk(sql, hash, 0) : null;
  for (let n = 0; n < count; n++) {
    const data = await next!;
    next = n + 1 < count ? chunk(sql, hash, n + 1) : null;
    next?.catch(() => {});
    yield data;
  }
}

export async function getBlob(sql: Sql, hash: string): Promise<Uint8Array | null> {
  const bytes = await blobBytes(sql, hash);
  if (bytes === null) return null;
  const out = new Uint8Array(bytes);
  let at = 0;
  for await (const data of readChunks(sql, hash, bytes)) {
    out.set(data, at);
    at += data.length;
  }
  return out;
}

/** A blob as a source for reading at random; keeps the last few chunks. */
export function blobSource(sql: Sql, hash: string, bytes: number): ByteSource {
  const recent = new Map<number, Promise<Uint8Array>>();
  const at = (n: number) => {
    const known = recent.get(n);
    if (known) return known;
    const made = chunk(sql, hash, n);
    recent.set(n, made);
    if (recent.size > 4) recent.delete(recent.keys().next().value!);
    return made;
  };
  return {
    size: bytes,
    read: async (offset, length) => {
      if (offset < 0 || offset + length > bytes) throw new ExrError('file is cut short', bytes);
      const out = new Uint8Array(length);
      for (let done = 0; done < length; ) {
        const n = Math.floor((offset + done) / CHUNK_BYTES);
        const data = await at(n);
        const from = offset + done - n * CHUNK_BYTES;
        const take = Math.min(length - done, data.length - from);
        out.set(data.subarray(from, from + take), done);
        done += take;
      }
      return out;
    },
  };
}

/** Replaces the checkpoint of a trial. */
export async function saveCheckpoint(sql: Sql, trial: string, bytes: Uint8Array): Promise<void> {
  await sql.begin(async (tx) => {
    await tx`delete from checkpoint_chunk where trial_id = ${trial}`;
    await tx`insert into checkpoint (trial_id, bytes) values (${trial}, ${bytes.length})
             on conflict (trial_id) do update set bytes = excluded.bytes, saved_at = now()`;
    await copyChunks(
      tx as unknown as Sql,
      'checkpoint_chunk',
      'trial_id',
      Buffer.from(trial.replaceAll('-', ''), 'hex'),
      chunksOf(bytes),
    );
  });
}

export async function loadCheckpoint(sql: Sql, trial: string): Promise<Uint8Array | null> {
  const [row] = await sql<{ bytes: string }[]>`select bytes from checkpoint where trial_id = ${trial}`;
  if (!row) return null;
  const out = new Uint8Array(Number(row.bytes));
  for (let at = 0, n = 0; at < out.length; n++) {
    const [part] = await sql<
      { data: Buffer }[]
    >`select data from checkpoint_chunk where trial_id = ${trial} and n = ${n}`;
    if (!part) return null;
    out.set(part.data, at);
    at += part.data.length;
  }
  return out;
}

export async function dropCheckpoint(sql: Sql, trial: string): Promise<void> {
  await sql`delete from checkpoint where trial_id = ${trial}`;
  await sql`delete from checkpoint_chunk where trial_id = ${trial}`;
}
