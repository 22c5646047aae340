import type { Sql } from './connection';

const COPY_HEADER = Buffer.concat([Buffer.from('PGCOPY\n\xff\r\n\0', 'latin1'), Buffer.alloc(8)]);

/** What stands before the bytes in a row of a binary COPY: text key, integer, how many bytes. */
function rowHead(key: Buffer, n: number, bytes: number): Buffer {
  const head = Buffer.alloc(2 + 4 + key.length + 8 + 4);
  head.writeInt16BE(3, 0);
  head.writeInt32BE(key.length, 2);
  key.copy(head, 6);
  head.writeInt32BE(4, 6 + key.length);
  head.writeInt32BE(n, 10 + key.length);
  head.writeInt32BE(bytes, 14 + key.length);
  return head;
}

/** Copies chunks into `table` (key, n, data) by binary COPY, on a connection inside a transaction. */
export async function copyChunks(
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
      for await (const data of chunks) {
        stream.write(rowHead(key, n++, data.length));
        if (!stream.write(data)) await new Promise((r) => stream.once('drain', r));
      }
      stream.end(Buffer.from([0xff, 0xff]));
    };
    write().catch((error) => stream.destroy(error));
  });
}
