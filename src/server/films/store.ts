import { type Film, type FilmFigures, makeLayer, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { canonicalJson } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import { attributesOf, type FilmOrigin, streamFilm } from '@/render/node/film-exr';
import type { Sql } from '../db/connection';
import { putStream } from '../storage/blobs';
import { thumbnail } from './pictures';

/** A film as it was kept: its content's hash, where its layers lie in it, and what was measured of it. */
export interface StoredFilm {
  hash: string;
  layers: { name: string; part: number; offset: number; bytes: number }[];
  figures: FilmFigures;
  thumbnail: Uint8Array;
}

/**
 * Measures a film and keeps it as multi-part OpenEXR, part by part: beside the film there is one part in memory. 32-bit floats
 * without compression: any depth can be made of it, and packing noise would take longer than storing it.
 */
export async function storeFilm(
  sql: Sql,
  film: Film,
  origin: Omit<FilmOrigin, 'sceneHash' | 'noisePercent'>,
): Promise<StoredFilm> {
  const { document } = origin.scene;
  const exposure = displayOf(origin.camera.exposure, document.look);
  const figures = measureFilm(film, exposure);
  const sceneHash = sha256(canonicalJson(document));
  const attributes = attributesOf({ ...origin, sceneHash, noisePercent: figures.noise?.rms ?? null });
  const { bytes, layers } = await streamFilm(film, attributes);
  const { hash } = await putStream(sql, bytes);
  const { width, height } = film.spec.region;
  const beauty = makeLayer(film, 'beauty')!.planes;
  return { hash, layers, figures, thumbnail: thumbnail(beauty, width, height, exposure) };
}
