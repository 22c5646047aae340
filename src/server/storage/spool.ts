import { createHash, randomUUID } from 'node:crypto';
import { open, unlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { TooLarge } from './blobs';
import { CHUNK_BYTES, rechunked } from './chunks';

/** What has come in whole: its SHA-256, its length, and its bytes from the beginning. */
export interface Spooled {
  hash: string;
  bytes: number;
  chunks: () => AsyncGenerator<Uint8Array>;
}

/**
 * Takes in a stream of at most `most` bytes before anything is done with it, so that a slow sender holds nothing but a file.
 * The file has no name and is gone with the process, however it ends. Throws `TooLarge`.
 */
export async function spool<T>(
  stream: AsyncIterable<Uint8Array>,
  most: number,
  use: (spooled: Spooled) => Promise<T>,
): Promise<T> {
  const path = join(tmpdir(), `lantern-${randomUUID()}`);
  const file = await open(path, 'wx+', 0o600);
  try {
    await unlink(path);
    const digest = createHash('sha256');
    let bytes = 0;
    for await (const part of rechunked(stream)) {
      bytes += part.length;
      if (bytes > most) throw new TooLarge(`more than ${most} bytes`);
      digest.update(part);
      await file.write(part);
    }
    async function* chunks(): AsyncGenerator<Uint8Array> {
      for (let at = 0; at < bytes; at += CHUNK_BYTES) {
        const chunk = new Uint8Array(Math.min(CHUNK_BYTES, bytes - at));
        await file.read(chunk, 0, chunk.length, at);
        yield chunk;
      }
    }
    return await use({ hash: digest.digest('hex'), bytes, chunks });
  } finally {
    await file.close();
  }
}
