import { type FramePart, type Spent, WHOLE } from '@/render/node/rendered-frame';
import { checkpointBytes, checkpointChunk, saveCheckpoint as save } from '../db/checkpoints';
import type { Sql } from '../db/connection';
import { CHUNK_BYTES } from './chunks';

/** Four floats of 64 bits before the film: milliseconds traced and calibrated, the band and of how many. */
const HEAD_BYTES = 32;

/** Keeps a film as far as it is; what it is kept from is not copied. */
export async function saveCheckpoint(
  sql: Sql,
  id: string,
  film: ArrayBufferLike,
  { traceMs, calibratedMs }: Spent,
  { band, bands }: FramePart = WHOLE,
): Promise<void> {
  const head = new Uint8Array(HEAD_BYTES);
  const view = new DataView(head.buffer);
  view.setFloat64(0, traceMs, true);
  view.setFloat64(8, calibratedMs, true);
  view.setFloat64(16, band, true);
  view.setFloat64(24, bands, true);
  function* chunks(): Generator<Uint8Array> {
    yield head;
    for (let at = 0; at < film.byteLength; at += CHUNK_BYTES)
      yield new Uint8Array(film, at, Math.min(CHUNK_BYTES, film.byteLength - at));
  }
  await save(sql, id, HEAD_BYTES + film.byteLength, chunks());
}

/** The film that was kept of a part, in memory that threads share, and what it took; null where there is none or some of it is missing. */
export async function loadCheckpoint(
  sql: Sql,
  id: string,
  { band, bands }: FramePart = WHOLE,
): Promise<{ film: SharedArrayBuffer; spent: Spent } | null> {
  const bytes = await checkpointBytes(sql, id);
  if (bytes === null || bytes < HEAD_BYTES) return null;
  const head = await checkpointChunk(sql, id, 0);
  if (head?.length !== HEAD_BYTES) return null;
  const view = new DataView(head.buffer, head.byteOffset);
  if (view.getFloat64(16, true) !== band || view.getFloat64(24, true) !== bands) return null;
  const film = new SharedArrayBuffer(bytes - HEAD_BYTES);
  for (let at = 0, n = 1; at < film.byteLength; n++) {
    const chunk = await checkpointChunk(sql, id, n);
    if (!chunk || at + chunk.length > film.byteLength) return null;
    new Uint8Array(film, at, chunk.length).set(chunk);
    at += chunk.length;
  }
  return { film, spent: { traceMs: view.getFloat64(0, true), calibratedMs: view.getFloat64(8, true) } };
}
