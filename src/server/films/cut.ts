import {
  boxHeight,
  boxWidth,
  type Compression,
  type Depth,
  type ExrFile,
  type LatePart,
  layersOf,
  type Part,
  pixelTypeOf,
  readHeaders,
  readPart,
  streamExr,
} from '@/core/exr';
import { isMask } from '@/core/film';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { blobBytes } from '../db/blobs';
import type { Sql } from '../db/connection';
import { blobSource } from '../storage/blobs';

/** A layer of a stored film and the part of the file that holds it. */
export interface LayerPlace {
  name: string;
  part: number;
}

export interface Cut {
  layers: readonly string[];
  depth: Depth;
  compression: Compression;
  parting: 'one' | 'many';
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

/**
 * Chosen layers of a stored film as an OpenEXR file, read and written part by part. `places` says which layers the film has.
 * Null when the film is not there.
 */
export async function cutFilm(
  sql: Sql,
  hash: string,
  places: readonly LayerPlace[],
  { layers, depth, compression, parting }: Cut,
): Promise<{ bytes: AsyncIterable<Uint8Array>; size: number; width: number; height: number } | null> {
  const opened = await openFilm(sql, hash);
  if (!opened) return null;
  const { file, read } = opened;
  const wanted = [...new Set(layers.map((n) => places.find((p) => p.name === n)!.part))];
  const parts: LatePart[] = [];
  for (const index of wanted) {
    const header = file.parts[index];
    const own = places.filter((p) => p.part === index).map((p) => p.name);
    const keep = header.channels.map((c) => own.length === 1 || layers.includes(c.name === 'A' ? 'alpha' : 'beauty'));
    const planes = async () => (await read(index)).filter((_, i) => keep[i]) as Float32Array[];
    // Whether half holds a layer is told by its pixels.
    const name = own.includes('beauty') ? 'beauty' : own[0];
    const layer = { name, channels: [], planes: depth === 'auto' ? await planes() : [], kind: 'color' as const };
    const type = pixelTypeOf(layer, depth);
    const channels = header.channels.filter((_, i) => keep[i]).map((c) => ({ name: c.name, type }));
    parts.push({ ...header, compression, channels, planes });
  }
  const one: LatePart = {
    ...parts[0],
    name: 'rgba',
    channels: parts.flatMap((p) => p.channels),
    planes: async () => {
      const all: Part['planes'] = [];
      for (const p of parts) all.push(...(await p.planes()));
      return all;
    },
    attributes: Object.assign({}, ...parts.map((p) => p.attributes)),
  };
  const { bytes, size } = await streamExr(parting === 'one' ? [one] : parts, nodeDeflate);
  const window = parts[0].dataWindow;
  return { bytes, size, width: boxWidth(window), height: boxHeight(window) };
}

/** A layer as planar 32-bit floats, channels in its order; null when the film is not there. */
export async function planarLayer(
  sql: Sql,
  hash: string,
  { name, part }: LayerPlace,
): Promise<{ values: Float32Array<ArrayBuffer>; width: number; height: number; channels: string[] } | null> {
  const opened = await openFilm(sql, hash);
  if (!opened) return null;
  const header = opened.file.parts[part];
  const planes = await opened.read(part);
  const [width, height] = [boxWidth(header.dataWindow), boxHeight(header.dataWindow)];
  const { layers } = layersOf([{ name: header.name, channels: header.channels, planes, width, height }]);
  // A mask part holds identifiers; its channels are sent as they stand.
  const chosen = isMask(name)
    ? { channels: header.channels.map((c) => c.name), planes: planes as Float32Array[] }
    : (layers.get(name) ?? [...layers.values()][0]);
  const values = new Float32Array(chosen.planes.length * chosen.planes[0].length);
  chosen.planes.forEach((p, i) => {
    values.set(p, i * p.length);
  });
  return { values, width, height, channels: chosen.channels };
}
