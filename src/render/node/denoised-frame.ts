import type { OpenedMade } from '@/core/cut';
import { isNeeded } from '@/core/denoise';
import { type FilmLayers, layerNames } from '@/core/film';
import { displayOf, scaleOf } from '@/core/image';
import { denoiseFrame, type Neighbour } from '../pool/denoise-frame';
import type { DenoiseOptions } from '../pool/denoiser';
import type { FilmOrigin } from './film-exr';
import { openedLayers } from './frame-files';
import type { RenderedFrame } from './rendered-frame';

/** What denoises frames: the filter's inner loops, and threads. */
export type Filtering = Pick<DenoiseOptions, 'module' | 'spawn' | 'threads'>;

/** What denoising needs of a frame, its own or that beside it. */
export function toDenoise(frame: RenderedFrame): FilmLayers {
  const names = layerNames(frame.spec).filter(isNeeded);
  const { width, height } = frame.spec.region;
  return { width, height, layers: new Map(names.map((n) => [n, frame.layer(n)])) };
}

/** A frame denoised at its recipe's strength, by itself or joined with those beside it; null where its recipe does not ask for that. */
export async function denoisedFrame(
  frame: RenderedFrame,
  { recipe, camera, scene }: FilmOrigin,
  filtering: Filtering | null,
  neighbours: readonly Neighbour[] = [],
): Promise<OpenedMade | null> {
  if (!recipe.denoise.on) return null;
  if (!filtering) throw new Error('this worker cannot denoise');
  const layers = toDenoise(frame);
  const display = displayOf(camera.exposure, scene.document.look);
  const done = await denoiseFrame(layers, neighbours, { ...filtering, display, scale: scaleOf(display) });
  return {
    film: openedLayers(done.film, done.names, frame.spec),
    strengths: { all: recipe.denoise.strength / 100, groups: {} },
  };
}
