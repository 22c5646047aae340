import { join } from 'node:path';
import { type OpenedFilm, readNamed } from '@/core/cut';
import { type ByteSource, layersInFile, readHeaders, readPart } from '@/core/exr';
import { isMask } from '@/core/film';
import { nodeInflate } from '@/node/zlib';
import { fileSource } from '@/render/node/file-source';
import { blobBytes } from '../db/blobs';
import type { Sql } from '../db/connection';
import { filesOfFrame } from '../db/run-files';
import { blobSource } from '../storage/blobs';

type Source = ByteSource & { close?: () => Promise<void> };

/** A file of a run where it is now: waiting for its folder, or in it. Null when it is in neither. */
export async function sourceOf(
  sql: Sql,
  { folder, name, hash }: { folder: string; name: string; hash: string },
): Promise<Source | null> {
  const waiting = await blobBytes(sql, hash);
  if (waiting !== null) return blobSource(sql, hash, waiting);
  return fileSource(join(folder, name)).catch(() => null);
}

/**
 * A layer of a frame as it was delivered, planar, channels in its order; null where no file of the frame that is still there has
 * it.
 */
export async function deliveredLayer(
  sql: Sql,
  trial: string,
  name: string,
): Promise<{ values: Float32Array<ArrayBuffer>; width: number; height: number; channels: string[] } | null> {
  const file = (await filesOfFrame(sql, trial)).find((f) => f.layers.includes(name));
  const source = file && (await sourceOf(sql, file));
  return source ? layerOf(source, name) : null;
}

/** A layer of a file, which is closed then. */
export async function layerOf(
  source: Source,
  name: string,
): Promise<{ values: Float32Array<ArrayBuffer>; width: number; height: number; channels: string[] } | null> {
  try {
    const headers = await readHeaders(source);
    const film: OpenedFilm = { parts: headers.parts, read: (part) => readPart(source, headers, part, nodeInflate) };
    const place = layersInFile(film.parts).find((l) => l.name === name);
    if (!place) return null;
    const { layers, width, height } = await readNamed(film, (n) => n === name);
    // A mask part holds identifiers; its channels are sent as they stand.
    const planes = isMask(name)
      ? ((await film.read(place.part)) as Float32Array[]).filter((_, i) => place.channels.includes(i))
      : layers.get(name)!.planes;
    const channels = isMask(name)
      ? place.channels.map((i) => film.parts[place.part].channels[i].name)
      : layers.get(name)!.channels;
    const values = new Float32Array(planes.length * planes[0].length);
    planes.forEach((p, i) => {
      values.set(p, i * p.length);
    });
    return { values, width, height, channels: [...channels] };
  } finally {
    await source.close?.();
  }
}
