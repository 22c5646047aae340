import { createHash } from 'node:crypto';
import { type ByteSource, ExrError } from '@/core/exr';
import { blobBytes, blobChunk, insertBlob, touchBlob } from '../db/blobs';
import type { Sql } from '../db/connection';
import { CHUNK_BYTES, rechunked } from './chunks';

export class TooLarge extends Error {}
/** Content that is not what was promised. */
export class WrongDigest extends Error {}

/**
 * Stores a stream once by its SHA-256, a chunk at a time as it comes; all or nothing. At most `most` bytes, and with the hash
 * `promised` where one is. Throws `TooLarge` or `WrongDigest`.
 */
export async function putStream(
  sql: Sql,
  stream: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  most = Number.POSITIVE_INFINITY,
  promised: string | null = null,
): Promise<{ hash: string; bytes: number }> {
  const known = promised === null ? null : await touchBlob(sql, promised);
  if (promised !== null && known !== null) return { hash: promised, bytes: known };
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
  let hash = promised ?? '';
  await insertBlob(sql, rechunked(counted()), promised, () => {
    hash = digest.digest('hex');
    if (promised !== null && hash !== promised) throw new WrongDigest('the content is not what its digest says');
    return { hash, bytes };
  });
  // Nothing was read of the stream where somebody else stored it meanwhile.
  return { hash, bytes: bytes || ((await blobBytes(sql, hash)) ?? 0) };
}

/** Stores bytes once by their SHA-256 and returns it. */
export async function putBlob(sql: Sql, bytes: Uint8Array): Promise<string> {
  const hash = createHash('sha256').update(bytes).digest('hex');
  await putStream(sql, [bytes], bytes.length, hash);
  return hash;
}

/** The chunks of a blob in order, the next one fetched while one is in use. */
export async function* readChunks(sql: Sql, hash: string, bytes: number): AsyncGenerator<Uint8Array> {
  const count = Math.ceil(bytes / CHUNK_BYTES);
  let next = count > 0 ? blobChunk(sql, hash, 0) : null;
  for (let n = 0; n < count; n++) {
    const data = await next!;
    next = n + 1 < count ? blobChunk(sql, hash, n + 1) : null;
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
    const made = blobChunk(sql, hash, n);
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
