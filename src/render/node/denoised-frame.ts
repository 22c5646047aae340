import type { OpenedMade } from '@/core/cut';
import { isNeeded } from '@/core/denoise';
import { type Film, layerNames, makeLayer } from '@/core/film';
import { displayOf, scaleOf } from '@/core/image';
import { denoiseFrame } from '../pool/denoise-frame';
import type { DenoiseOptions } from '../pool/denoiser';
import type { FilmOrigin } from './film-exr';
import { openedLayers } from './frame-files';

/** What denoises frames: the filter's inner loops, and threads. */
export type Filtering = Pick<DenoiseOptions, 'module' | 'spawn' | 'threads'>;

/** A frame denoised by itself at its recipe's strength; null where that does not ask for it. */
export async function denoisedFrame(
  film: Film,
  { recipe, camera, scene }: FilmOrigin,
  filtering: Filtering | null,
): Promise<OpenedMade | null> {
  if (!recipe.denoise.on) return null;
  if (!filtering) throw new Error('this worker cannot denoise');
  const names = layerNames(film.spec).filter(isNeeded);
  const { width, height } = film.spec.region;
  const layers = { width, height, layers: new Map(names.map((n) => [n, makeLayer(film, n)!])) };
  const display = displayOf(camera.exposure, scene.document.look);
  const done = await denoiseFrame(layers, [], { ...filtering, display, scale: scaleOf(display) });
  return {
    film: openedLayers(done.film, done.names, film.spec),
    strengths: { all: recipe.denoise.strength / 100, groups: {} },
  };
}
