import { checkpointBytes, checkpointChunk, saveCheckpoint as save } from '../db/checkpoints';
import type { Sql } from '../db/connection';
import { CHUNK_BYTES } from './chunks';

/** What a film took so far: milliseconds traced, by the clock and calibrated. */
export interface Spent {
  traceMs: number;
  calibratedMs: number;
}

/** Two floats of 64 bits, milliseconds traced and calibrated, before the film. */
const HEAD_BYTES = 16;

/** Keeps a film as far as it is; what it is kept from is not copied. */
export async function saveCheckpoint(
  sql: Sql,
  id: string,
  film: ArrayBufferLike,
  { traceMs, calibratedMs }: Spent,
): Promise<void> {
  const head = new Uint8Array(HEAD_BYTES);
  const view = new DataView(head.buffer);
  view.setFloat64(0, traceMs, true);
  view.setFloat64(8, calibratedMs, true);
  function* chunks(): Generator<Uint8Array> {
    yield head;
    for (let at = 0; at < film.byteLength; at += CHUNK_BYTES)
      yield new Uint8Array(film, at, Math.min(CHUNK_BYTES, film.byteLength - at));
  }
  await save(sql, id, HEAD_BYTES + film.byteLength, chunks());
}

/** The film that was kept, in memory that threads share, and what it took; null where there is none or some of it is missing. */
export async function loadCheckpoint(sql: Sql, id: string): Promise<{ film: SharedArrayBuffer; spent: Spent } | null> {
  const bytes = await checkpointBytes(sql, id);
  if (bytes === null || bytes < HEAD_BYTES) return null;
  const film = new SharedArrayBuffer(bytes - HEAD_BYTES);
  const head = await checkpointChunk(sql, id, 0);
  if (head?.length !== HEAD_BYTES) return null;
  for (let at = 0, n = 1; at < film.byteLength; n++) {
    const chunk = await checkpointChunk(sql, id, n);
    if (!chunk || at + chunk.length > film.byteLength) return null;
    new Uint8Array(film, at, chunk.length).set(chunk);
    at += chunk.length;
  }
  const view = new DataView(head.buffer, head.byteOffset);
  return { film, spent: { traceMs: view.getFloat64(0, true), calibratedMs: view.getFloat64(8, true) } };
}
