import { type Cut, cutParts, fileParts, type OpenedMade } from '@/core/cut';
import type { Strengths } from '@/core/denoise';
import { boxHeight, boxWidth, type LatePart, layersOf, streamExr } from '@/core/exr';
import { isMask } from '@/core/film';
import { nodeDeflate } from '@/node/zlib';
import type { Sql } from '../db/connection';
import { type LayerPlace, openFilm } from './open';

/** What denoising made of a film: where it is kept, and how much of it is taken. */
export interface Made {
  hash: string;
  strengths: Strengths;
}

/** What denoising made, opened; null where nothing is to be taken of it. Throws where it is gone. */
async function openMade(sql: Sql, made: Made | null): Promise<OpenedMade | null> {
  if (!made) return null;
  const film = await openFilm(sql, made.hash);
  if (!film) throw new Error('the denoised film is not there any more');
  return { film, strengths: made.strengths };
}

/** The parts of a file of chosen layers of a stored film, made when their turn comes; null when the film is not there. */
export async function cutStored(
  sql: Sql,
  hash: string,
  cut: Omit<Cut, 'parting'>,
  made: Made | null = null,
): Promise<LatePart[] | null> {
  const film = await openFilm(sql, hash);
  return film && cutParts(film, cut, await openMade(sql, made));
}

/**
 * Chosen layers of a stored film as an OpenEXR file, read and written part by part; `made` says what denoising made of it.
 * Null when the film is not there.
 */
export async function cutFilm(
  sql: Sql,
  hash: string,
  cut: Cut,
  made: Made | null = null,
): Promise<{ bytes: AsyncIterable<Uint8Array>; size: number; width: number; height: number } | null> {
  const film = await openFilm(sql, hash);
  if (!film) return null;
  const parts = await fileParts(film, cut, await openMade(sql, made));
  const { bytes, size } = await streamExr(parts, nodeDeflate);
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
  const header = opened.parts[part];
  const planes = await opened.read(part);
  const [width, height] = [boxWidth(header.dataWindow), boxHeight(header.dataWindow)];
  const { layers } = layersOf([{ name: header.name, channels: header.channels, planes: [...planes], width, height }]);
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
