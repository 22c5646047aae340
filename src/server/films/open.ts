import { type ExrFile, layersOf, type Part, readHeaders, readPart } from '@/core/exr';
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
export async function openFilm(
  sql: Sql,
  hash: string,
): Promise<{ file: ExrFile; read: (part: number) => Promise<Part['planes']> } | null> {
  const bytes = await blobBytes(sql, hash);
  if (bytes === null) return null;
  const source = blobSource(sql, hash, bytes);
  const file = await readHeaders(source);
  return { file, read: (part) => readPart(source, file, part, nodeInflate) };
}

/** Parts of a file that are read at the same time. */
const AT_ONCE = 4;

/** Layers of stored content by their names; null when it is not there. */
export async function readLayers(
  sql: Sql,
  hash: string,
  places: readonly LayerPlace[],
  wanted: (name: string) => boolean,
): Promise<FilmLayers | null> {
  const opened = await openFilm(sql, hash);
  if (!opened) return null;
  const numbers = [...new Set(places.filter((p) => wanted(p.name)).map((p) => p.part))];
  const read = async (number: number) => {
    const header = opened.file.parts[number];
    const { xMin, xMax, yMin, yMax } = header.dataWindow;
    const planes = await opened.read(number);
    return { ...header, planes, width: xMax - xMin + 1, height: yMax - yMin + 1 };
  };
  const parts = [];
  // A few at once: one is inflated while another comes from the database.
  for (let k = 0; k < numbers.length; k += AT_ONCE)
    parts.push(...(await Promise.all(numbers.slice(k, k + AT_ONCE).map(read))));
  return layersOf(parts);
}
