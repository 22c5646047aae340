import { createHash, randomBytes } from 'node:crypto';
import { missingBlobs, sweepBlobs, touchBlob } from '../db/blobs';
import { dropCheckpoint } from '../db/checkpoints';
import type { Sql } from '../db/connection';
import { testDatabase } from '../testing';
import { blobSource, getBlob, putBlob, putStream, readChunks, TooLarge, WrongDigest } from './blobs';
import { loadCheckpoint, saveCheckpoint } from './checkpoints';
import { CHUNK_BYTES } from './chunks';
import { spool } from './spool';

let sql: Sql;
let close: () => Promise<void>;
beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_blobs'));
});
afterAll(() => close());

test.each([0, 1, CHUNK_BYTES - 1, CHUNK_BYTES, 3 * CHUNK_BYTES + 17])(
  '%i bytes come back as they went in, stored once',
  async (size) => {
    const bytes = new Uint8Array(randomBytes(size));
    const hash = await putBlob(sql, bytes);
    expect(await putBlob(sql, bytes)).toBe(hash);
    expect(Buffer.from((await getBlob(sql, hash))!).equals(Buffer.from(bytes))).toBe(true);
    const [{ n }] = await sql`select count(*)::int as n from blob_chunk where hash = ${hash}`;
    expect(n).toBe(Math.ceil(size / CHUNK_BYTES));
  },
);

test('any range can be read, across chunks', async () => {
  const bytes = new Uint8Array(randomBytes(2 * CHUNK_BYTES + 100));
  const source = blobSource(sql, await putBlob(sql, bytes), bytes.length);
  for (const [at, n] of [
    [0, 10],
    [CHUNK_BYTES - 5, 10],
    [CHUNK_BYTES - 1, CHUNK_BYTES + 2],
    [bytes.length - 1, 1],
  ]) {
    expect(Buffer.from(await source.read(at, n)).equals(Buffer.from(bytes.subarray(at, at + n)))).toBe(true);
  }
  await expect(source.read(bytes.length - 1, 2)).rejects.toThrow(/cut short/);
});

test('reading that is given up leaves the connection usable', async () => {
  const bytes = new Uint8Array(randomBytes(4 * CHUNK_BYTES));
  const chunks = readChunks(sql, await putBlob(sql, bytes), bytes.length);
  await chunks.next();
  await chunks.return(undefined);
  expect((await sql`select 1 as one`)[0].one).toBe(1);
});

test('an upload that breaks off or is too large stores nothing', async () => {
  async function* broken() {
    yield new Uint8Array(100);
    throw new Error('the line went dead');
  }
  async function* large() {
    for (let i = 0; i < 10; i++) yield new Uint8Array(100);
  }
  const before = await sql`select count(*)::int as n from blob`;
  await expect(putStream(sql, broken(), 1e6)).rejects.toThrow('line went dead');
  await expect(putStream(sql, large(), 500)).rejects.toBeInstanceOf(TooLarge);
  expect(await sql`select count(*)::int as n from blob`).toEqual(before);
});

test('content of a promised digest is stored as it comes, in pieces of any size, and read back the same', async () => {
  const bytes = new Uint8Array(randomBytes(CHUNK_BYTES * 3 + 17));
  const hash = createHash('sha256').update(bytes).digest('hex');
  async function* pieces() {
    const sizes = [1, CHUNK_BYTES - 1, 7, CHUNK_BYTES + 5, 60_000];
    for (let at = 0, i = 0; at < bytes.length; i++) {
      const size = sizes[i % sizes.length];
      yield bytes.subarray(at, at + size);
      at += size;
    }
  }
  expect(await putStream(sql, pieces(), 1e8, hash)).toEqual({ hash, bytes: bytes.length });
  expect(Buffer.compare((await getBlob(sql, hash))!, bytes)).toBe(0);
  // A second time nothing is read of the stream.
  async function* none(): AsyncGenerator<Uint8Array> {
    yield await Promise.reject(new Error('was read'));
  }
  expect(await putStream(sql, none(), 1e8, hash)).toEqual({ hash, bytes: bytes.length });
});

test('a promise that does not hold, a line that breaks and too much leave nothing, and the connection usable', async () => {
  const promised = createHash('sha256').update('something else').digest('hex');
  async function* some(n: number, end?: Error) {
    for (let i = 0; i < n; i++) yield new Uint8Array(CHUNK_BYTES + 1);
    if (end) throw end;
  }
  const before = await sql`select count(*)::int as n from blob`;
  await expect(putStream(sql, some(3), 1e8, promised)).rejects.toBeInstanceOf(WrongDigest);
  await expect(putStream(sql, some(2, new Error('the line went dead')), 1e8, promised)).rejects.toThrow(
    'line went dead',
  );
  await expect(putStream(sql, some(5), CHUNK_BYTES * 2, promised)).rejects.toBeInstanceOf(TooLarge);
  expect(await sql`select count(*)::int as n from blob`).toEqual(before);
  expect((await sql`select count(*)::int as n from blob_chunk where hash = ${promised}`)[0].n).toBe(0);
});

test('a stream of unknown content is stored as it comes, under the hash it turns out to have, once', async () => {
  const bytes = new Uint8Array(randomBytes(CHUNK_BYTES * 2 + 5));
  const hash = createHash('sha256').update(bytes).digest('hex');
  const halves = [bytes.subarray(0, 700_001), bytes.subarray(700_001)];
  expect(await putStream(sql, halves)).toEqual({ hash, bytes: bytes.length });
  expect(await putStream(sql, halves)).toEqual({ hash, bytes: bytes.length });
  expect(Buffer.compare((await getBlob(sql, hash))!, bytes)).toBe(0);
  const [{ n }] = await sql`select count(*)::int as n from blob_chunk where hash = ${hash}`;
  expect(n).toBe(3);
  expect((await sql`select count(*)::int as n from blob where bytes = 0 and hash <> ${hash}`)[0].n).toBeLessThanOrEqual(
    1,
  );
});

test('a checkpoint is replaced whole and dropped whole', async () => {
  const id = '01930000-0000-7000-8000-000000000000';
  const film = (size: number) => new Uint8Array(randomBytes(size)).buffer;
  await saveCheckpoint(sql, id, film(CHUNK_BYTES * 2 + 3), { traceMs: 1, calibratedMs: 2 });
  const second = film(CHUNK_BYTES + 9);
  await saveCheckpoint(sql, id, second, { traceMs: 3.5, calibratedMs: 2.25 });
  const kept = (await loadCheckpoint(sql, id))!;
  expect(Buffer.from(new Uint8Array(kept.film)).equals(Buffer.from(second))).toBe(true);
  expect(kept.spent).toEqual({ traceMs: 3.5, calibratedMs: 2.25 });
  await dropCheckpoint(sql, id);
  expect(await loadCheckpoint(sql, id)).toBeNull();
});

test('what is taken in first comes back in chunks as often as asked, with its hash; too much is refused', async () => {
  const bytes = randomBytes(CHUNK_BYTES * 2 + 9);
  async function* slow() {
    for (let at = 0; at < bytes.length; at += 700_000) yield bytes.subarray(at, at + 700_000);
  }
  const told = await spool(slow(), 1e8, async ({ hash, bytes: size, chunks }) => {
    const parts: Uint8Array[][] = [[], []];
    for (const into of parts) for await (const c of chunks()) into.push(c);
    return { hash, size, same: parts.every((p) => Buffer.concat(p).equals(bytes)) };
  });
  expect(told).toEqual({ hash: createHash('sha256').update(bytes).digest('hex'), size: bytes.length, same: true });
  await expect(spool(slow(), 1000, async () => 0)).rejects.toBeInstanceOf(TooLarge);
});

test('content that nothing refers to goes after some days, and stays where it was wanted again', async () => {
  const [gone, wanted, young] = await Promise.all([1, 2, 3].map(() => putBlob(sql, new Uint8Array(randomBytes(50)))));
  await sql`update blob set created_at = now() - interval '8 days' where hash in ${sql([gone, wanted])}`;
  expect(await touchBlob(sql, wanted)).toBe(50);
  expect(await sweepBlobs(sql, 7)).toBe(1);
  expect(await missingBlobs(sql, [gone, wanted, young])).toEqual([gone]);
});
