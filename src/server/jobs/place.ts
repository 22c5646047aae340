import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { MANIFEST_NAME } from '@/core/runs';
import { fileHash, folderWords, writeWhole } from '@/node/folder';
import { isAway } from '../db/away';
import { blobBytes } from '../db/blobs';
import { announce, type Sql } from '../db/connection';
import { noteNotPlaced, notePlaced, placedElsewhere, type WaitingFile, waitingFiles } from '../db/run-files';
import { manifestOf } from '../films/manifest';
import { readChunks } from '../storage/blobs';
import { Bell } from './bell';

/** Files that are looked for at a time. */
const AT_ONCE = 50;
const IDLE_MS = 2000;
/** A manifest is written no sooner than this after the last, nor than so many times what that took. */
const MANIFEST_MS = 2000;
const MANIFEST_SHARE = 20;

/** Whether a file may stand under its name: nothing else is there, what is there is the run's own, or it may be overwritten. */
async function mayStand(file: WaitingFile, path: string): Promise<'write' | 'there' | 'no'> {
  const there = await fileHash(path);
  if (there?.sha256 === file.hash) return 'there';
  return !there || file.overwrites || there.sha256 === file.placedHash ? 'write' : 'no';
}

/**
 * The content of a packed file. Two runs may have packed the same, and the copy has gone with the first that was put into its
 * folder: it is taken from there. Throws where it is nowhere.
 */
async function contentOf(sql: Sql, file: WaitingFile): Promise<AsyncIterable<Uint8Array>> {
  if ((await blobBytes(sql, file.hash)) !== null) return readChunks(sql, file.hash, file.bytes);
  for (const { folder, name } of await placedElsewhere(sql, file)) {
    const path = join(folder, name);
    if ((await fileHash(path).catch(() => null))?.sha256 === file.hash) return createReadStream(path);
  }
  throw new Error('its content is not there any more: render the frame again');
}

/** Puts a packed file into its run's folder. Never takes the place of a file that is not the run's own unasked. */
export async function placeFile(sql: Sql, file: WaitingFile): Promise<void> {
  const path = join(file.folder, file.name);
  try {
    const may = await mayStand(file, path);
    if (may === 'no') return noteNotPlaced(sql, file, 'another file has that name in the folder');
    if (may === 'write') await writeWhole(file.folder, file.name, await contentOf(sql, file));
  } catch (error) {
    if (isAway(error)) throw error;
    return noteNotPlaced(sql, file, folderWords(error, file.folder));
  }
  await notePlaced(sql, file);
}

/** Writes the manifest of a run beside its files. */
export async function writeManifest(sql: Sql, run: string, version: string): Promise<void> {
  const found = await manifestOf(sql, run, version);
  if (!found) return;
  const text = `${JSON.stringify(found.manifest, null, 1)}\n`;
  await writeWhole(found.folder, MANIFEST_NAME, [Buffer.from(text)]);
}

/**
 * Puts files that workers have packed into the folders of their runs, on the machine that has those, with a manifest of each run,
 * until it is told to end.
 */
export async function servePlacing(sql: Sql, version: string, signal: AbortSignal): Promise<void> {
  const bell = await Bell.hung(sql, signal, () => true);
  /** Runs whose manifest is behind, and when the next may be written. */
  const behind = new Map<string, number>();
  const manifests = async (isIdle: boolean) => {
    for (const [run, at] of behind) {
      if (!isIdle && performance.now() < at) continue;
      const from = performance.now();
      await writeManifest(sql, run, version).catch((error) => {
        if (isAway(error)) throw error;
      });
      const took = performance.now() - from;
      if (isIdle) behind.delete(run);
      else behind.set(run, performance.now() + Math.max(MANIFEST_MS, MANIFEST_SHARE * took));
    }
  };
  while (!signal.aborted) {
    try {
      const waiting = await waitingFiles(sql, AT_ONCE);
      const told = new Map(waiting.map((f) => [f.run, f.shot]));
      for (const file of waiting) {
        if (signal.aborted) break;
        await placeFile(sql, file);
        if (!behind.has(file.run)) behind.set(file.run, performance.now());
      }
      await manifests(waiting.length === 0);
      for (const [id, shot] of told) await announce(sql, { type: 'run', id, shot, frames: false });
      if (waiting.length > 0) continue;
    } catch {
      // A database that is away is waited for.
    }
    if (signal.aborted) break;
    await bell.wait(IDLE_MS);
  }
  await bell.close();
}
