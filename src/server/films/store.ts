import { type Film, type FilmFigures, makeLayer, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { groupColors } from '@/core/kernel';
import { canonicalJson, type Recipe } from '@/core/recipe';
import { type Camera, cameraAt, type Scene } from '@/core/scene';
import { sha256 } from '@/node/hash';
import { captureDate, filmAttributes, streamFilm } from '@/render/node/film-exr';
import type { Sql } from '../db/connection';
import { putStream } from '../storage/blobs';
import { thumbnail } from './pictures';

/** What a film was rendered of, for its notes. */
export interface FilmOrigin {
  scene: Scene;
  camera: Camera;
  frame: number;
  recipe: Recipe;
  recipeHash: string;
  traceSeconds: number;
  version: string;
}

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
export async function storeFilm(sql: Sql, film: Film, origin: FilmOrigin): Promise<StoredFilm> {
  const { scene, camera, frame, recipe } = origin;
  const exposure = displayOf(camera.exposure, scene.document.look);
  const figures = measureFilm(film, exposure);
  const attributes = filmAttributes(cameraAt(camera, frame), {
    recipeHash: origin.recipeHash,
    sceneHash: sha256(canonicalJson(scene.document)),
    seed: recipe.sampling.seed,
    noisePercent: figures.noise?.rms ?? null,
    seconds: origin.traceSeconds,
    version: origin.version,
    frame,
    framesPerSecond: scene.document.frames.perSecond,
    date: captureDate(new Date()),
    aspect: recipe.size.height / recipe.size.width,
    groupColors: groupColors(scene),
  });
  const { bytes, layers } = await streamFilm(film, attributes);
  const { hash } = await putStream(sql, bytes);
  const { width, height } = film.spec.region;
  const beauty = makeLayer(film, 'beauty')!.planes;
  return { hash, layers, figures, thumbnail: thumbnail(beauty, width, height, exposure) };
}
