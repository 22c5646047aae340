import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, open, readdir, rename, rm, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';

/** SHA-256 and length of a file; null where there is none. */
export async function fileHash(path: string): Promise<{ bytes: number; sha256: string } | null> {
  const digest = createHash('sha256');
  let bytes = 0;
  try {
    for await (const part of createReadStream(path)) {
      digest.update(part as Buffer);
      bytes += (part as Buffer).length;
    }
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
  return { bytes, sha256: digest.digest('hex') };
}

/** Pieces as they come, and what is found of them once they have all gone by: their length and SHA-256. */
export function hashed(pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): {
  pieces: AsyncIterable<Uint8Array>;
  found: () => { bytes: number; sha256: string };
} {
  const digest = createHash('sha256');
  let bytes = 0;
  async function* counted(): AsyncGenerator<Uint8Array> {
    for await (const piece of pieces) {
      digest.update(piece);
      bytes += piece.length;
      yield piece;
    }
  }
  return { pieces: counted(), found: () => ({ bytes, sha256: digest.digest('hex') }) };
}

/** Writes a file whole under its name, or nothing: beside its place first, and on the disk before it is named. */
export async function writeWhole(
  folder: string,
  name: string,
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
): Promise<void> {
  await mkdir(folder, { recursive: true });
  const beside = join(folder, `.${name}.${randomUUID().slice(0, 8)}`);
  const file = await open(beside, 'wx');
  try {
    try {
      for await (const piece of pieces) await file.writeFile(piece);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(beside, join(folder, name));
  } catch (error) {
    await rm(beside, { force: true });
    throw error;
  }
}

/** Of some names, those that are in a folder; none where there is no folder. */
export async function namesIn(folder: string, names: readonly string[]): Promise<string[]> {
  const there = new Set(
    await readdir(folder).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return [];
      throw error;
    }),
  );
  return names.filter((n) => there.has(n));
}

/** Bytes that are free where a folder is, or will be; null where that cannot be told. */
export async function freeBytes(folder: string): Promise<number | null> {
  for (let at = folder; ; at = join(at, '..')) {
    const is = await stat(at).catch(() => null);
    if (is) {
      const { bavail, bsize } = await statfs(at);
      return is.isDirectory() ? bavail * bsize : null;
    }
    if (at === '/') return null;
  }
}

/** What the system says of a folder or disk, in words. */
export function folderWords(error: unknown, folder: string): string {
  const { code, message } = error as NodeJS.ErrnoException;
  const words: Record<string, string> = {
    ENOSPC: 'the disk is full',
    EDQUOT: 'the disk is full',
    EACCES: `${folder} cannot be written to`,
    EPERM: `${folder} cannot be written to`,
    EROFS: `${folder} cannot be written to`,
    ENOTDIR: `${folder} is no folder`,
    EEXIST: `${folder} is no folder`,
  };
  return words[code ?? ''] ?? message;
}
