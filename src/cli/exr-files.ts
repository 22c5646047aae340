import { basename, dirname } from 'node:path';
import {
  type ByteSource,
  boxHeight,
  boxWidth,
  ExrError,
  type ExrFile,
  layersOf,
  type PartHeader,
  type ReadPart,
  readHeaders,
  readPart,
} from '@/core/exr';
import type { FilmLayers } from '@/core/film';
import { writeWhole as writeFileWhole } from '@/node/folder';
import { nodeInflate } from '@/node/zlib';
import { fileSource } from '@/render/node/file-source';
import { UsageError } from './args';

/** Opens a file for reading at random and hands it to `use`; faults become usage errors that name the file. */
export async function withExr<T>(path: string, use: (source: ByteSource, file: ExrFile) => Promise<T>): Promise<T> {
  const source = await fileSource(path).catch((error: NodeJS.ErrnoException) => {
    throw new UsageError(`${path}: ${error.code === 'ENOENT' ? 'no such file' : error.message}`);
  });
  try {
    return await use(source, await readHeaders(source));
  } catch (error) {
    if (error instanceof ExrError) throw new UsageError(`${path}: ${error.message}`);
    throw error;
  } finally {
    await source.close();
  }
}

/** All parts of a file with what their headers say. */
export async function readParts(source: ByteSource, file: ExrFile): Promise<(PartHeader & ReadPart)[]> {
  const parts = [];
  for (let i = 0; i < file.parts.length; i++) {
    const p = file.parts[i];
    const planes = await readPart(source, file, i, nodeInflate);
    parts.push({ ...p, planes, width: boxWidth(p.dataWindow), height: boxHeight(p.dataWindow) });
  }
  return parts;
}

/** Writes a file whole or not at all, piece by piece. Faults become usage errors that name it. */
export async function writePieces(
  path: string,
  pieces: Iterable<Uint8Array> | AsyncIterable<Uint8Array>,
): Promise<void> {
  await writeFileWhole(dirname(path), basename(path), pieces).catch((error: Error) => {
    throw new UsageError(`${path}: ${error.message}`);
  });
}

/** The same of bytes that are all there. */
export const writeWhole = (path: string, bytes: Uint8Array): Promise<void> => writePieces(path, [bytes]);

/** All layers of a file; what of it is no layer of the picture is told on the error stream. */
export async function readLayers(source: ByteSource, file: ExrFile): Promise<FilmLayers> {
  const film = layersOf(await readParts(source, file));
  for (const words of film.leftOut) process.stderr.write(`left out: ${words}\n`);
  return film;
}
