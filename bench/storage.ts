import { randomBytes } from 'node:crypto';
import type { Sql } from '@/server/db/connection';
import { getBlob, putBlob } from '@/server/storage/blobs';

/** Megabytes a second into and out of PostgreSQL. */
export async function measureStorage(sql: Sql) {
  const bytes = new Uint8Array(randomBytes(64 << 20));
  const before = performance.now();
  const hash = await putBlob(sql, bytes);
  const written = performance.now();
  await getBlob(sql, hash);
  const read = performance.now();
  await sql`delete from blob where hash = ${hash}`;
  const mb = bytes.length / 1e6;
  return { megabytes: mb, writeMBs: (mb / (written - before)) * 1000, readMBs: (mb / (read - written)) * 1000 };
}
