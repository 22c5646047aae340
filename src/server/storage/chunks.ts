/** Bytes of one stored chunk. */
export const CHUNK_BYTES = 1 << 20;

/** Pieces of any size cut anew into chunks of the stored size. */
export async function* rechunked(pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let chunk = new Uint8Array(CHUNK_BYTES);
  let filled = 0;
  for await (const part of pieces)
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
