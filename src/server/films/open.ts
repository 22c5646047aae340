import { type OpenedFilm, readNamed } from '@/core/cut';
import { readHeaders, readPart } from '@/core/exr';
import type { FilmLayers } from '@/core/film';
import { nodeInflate } from '@/node/zlib';
import { blobBytes } from '../db/blobs';
import type { Sql } from '../db/connection';
import { blobSource } from '../storage/blobs';

/** A layer of a stored film and the part of the file that holds it. */
export interface LayerPlace {
  name: string;
  part: number;
}

/** A stored film, opened for reading; null when it is not there. */
export async function openFilm(sql: Sql, hash: string): Promise<OpenedFilm | null> {
  const bytes = await blobBytes(sql, hash);
  if (bytes === null) return null;
  const source = blobSource(sql, hash, bytes);
  const file = await readHeaders(source);
  return { parts: file.parts, read: (part) => readPart(source, file, part, nodeInflate) };
}

/** Layers of stored content by their names; null when it is not there. */
export async function readLayers(
  sql: Sql,
  hash: string,
  wanted: (name: string) => boolean,
): Promise<FilmLayers | null> {
  const film = await openFilm(sql, hash);
  return film && readNamed(film, wanted);
}
