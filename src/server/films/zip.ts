import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { ZipFile } from 'yazl';
import { MANIFEST_NAME } from '@/core/runs';
import { blobBytes } from '../db/blobs';
import type { Sql } from '../db/connection';
import { filesOfRun } from '../db/run-files';
import type { RunRow } from '../db/runs';
import { readChunks } from '../storage/blobs';
import { manifestOf } from './manifest';

/** Pieces of a file of a run: of its folder, or of where it waits to be put there. Throws where it is in neither. */
async function* pieces(
  sql: Sql,
  folder: string,
  { name, sha256, bytes }: { name: string; sha256: string; bytes: number },
) {
  const waiting = await blobBytes(sql, sha256);
  if (waiting !== null) yield* readChunks(sql, sha256, bytes);
  else yield* createReadStream(join(folder, name)) as AsyncIterable<Uint8Array>;
}

/**
 * The files of a run that there are, with their manifest, as a .zip whose pieces are made as they are read. The files are packed
 * already, and are stored as they are. Files that are gone from the folder are left out, as their manifest tells.
 */
export async function zipOfRun(sql: Sql, run: RunRow): Promise<AsyncIterable<Uint8Array>> {
  const zip = new ZipFile();
  const found = await manifestOf(sql, run.id, '');
  const files = await filesOfRun(sql, run.id);
  const there: typeof files = [];
  for (const f of files) {
    const isThere =
      (await blobBytes(sql, f.sha256)) !== null ||
      (await stat(join(run.folder, f.name)).catch(() => null))?.size === f.bytes;
    if (isThere) there.push(f);
  }
  if (found) {
    const { manifest } = found;
    const inZip = there.map(({ trial: _, placed: __, ...f }) => f);
    const text = JSON.stringify(
      { ...manifest, complete: manifest.complete && there.length === files.length, files: inZip },
      null,
      1,
    );
    zip.addBuffer(Buffer.from(`${text}\n`), MANIFEST_NAME, { compress: false });
  }
  for (const f of there)
    zip.addReadStreamLazy(f.name, { compress: false, size: f.bytes }, (done) =>
      done(null, Readable.from(pieces(sql, run.folder, f))),
    );
  zip.end();
  return zip.outputStream as unknown as AsyncIterable<Uint8Array>;
}
