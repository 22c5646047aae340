import type { FilmFigures } from '@/core/film';
import { displayOf } from '@/core/image';
import { documentHash } from '@/node/hash';
import { attributesOf, type FilmOrigin, streamFilm } from '@/render/node/film-exr';
import type { RenderedFrame } from '@/render/node/rendered-frame';
import type { Sql } from '../db/connection';
import { putStream } from '../storage/blobs';
import { thumbnail } from './pictures';

/** What was measured of a film, and its small picture. */
export interface MeasuredFilm {
  figures: FilmFigures;
  thumbnail: Uint8Array;
  /** What its files say of how it came about, whole. */
  origin: FilmOrigin;
}

/** A film as it was kept: its content's hash, and where its layers lie in it. */
export interface StoredFilm {
  hash: string;
  layers: { name: string; part: number; offset: number; bytes: number }[];
}

/** What was rendered, before it is measured. */
export type Rendered = Omit<FilmOrigin, 'sceneHash' | 'noisePercent'>;

/** What is told of a frame that was measured. */
export function measured(frame: RenderedFrame, figures: FilmFigures, origin: Rendered): MeasuredFilm {
  const { document } = origin.scene;
  const exposure = displayOf(origin.camera.exposure, document.look);
  const sceneHash = documentHash(document);
  const { width, height } = frame.spec.region;
  const beauty = frame.layer('beauty').planes;
  return {
    figures,
    thumbnail: thumbnail(beauty, width, height, exposure),
    origin: { ...origin, sceneHash, noisePercent: figures.noise?.rms ?? null },
  };
}

/**
 * Keeps a film as multi-part OpenEXR, part by part: beside the film there is one part in memory. 32-bit floats without
 * compression: any depth can be made of it, and packing noise would take longer than storing it.
 */
export async function storeFilm(sql: Sql, frame: RenderedFrame, origin: FilmOrigin): Promise<StoredFilm> {
  const { bytes, layers } = await streamFilm(frame, attributesOf(origin));
  const { hash } = await putStream(sql, bytes);
  return { hash, layers };
}
