import type { OpenedMade } from '@/core/cut';
import { isNeeded } from '@/core/denoise';
import { layerNames } from '@/core/film';
import { displayOf, scaleOf } from '@/core/image';
import { denoiseFrame, type Neighbour } from '../pool/denoise-frame';
import type { DenoiseOptions } from '../pool/denoiser';
import type { FilmOrigin } from './film-exr';
import { openedLayers } from './frame-files';
import type { RenderedFrame } from './rendered-frame';

/** What denoises frames: the filter's inner loops, and threads. */
export type Filtering = Pick<DenoiseOptions, 'module' | 'spawn' | 'threads'>;

/** A frame denoised at its recipe's strength, by itself or joined with those beside it; null where its recipe does not ask for that. */
export async function denoisedFrame(
  frame: RenderedFrame,
  { recipe, camera, scene }: FilmOrigin,
  filtering: Filtering | null,
  neighbours: readonly Neighbour[] = [],
): Promise<OpenedMade | null> {
  if (!recipe.denoise.on) return null;
  if (!filtering) throw new Error('this worker cannot denoise');
  const names = layerNames(frame.spec).filter(isNeeded);
  const { width, height } = frame.spec.region;
  const layers = { width, height, layers: new Map(names.map((n) => [n, frame.layer(n)])) };
  const display = displayOf(camera.exposure, scene.document.look);
  const done = await denoiseFrame(layers, neighbours, { ...filtering, display, scale: scaleOf(display) });
  return {
    film: openedLayers(done.film, done.names, frame.spec),
    strengths: { all: recipe.denoise.strength / 100, groups: {} },
  };
}
