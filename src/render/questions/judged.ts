import {
  cellsOfLook,
  LOOK_CELLS,
  type LookedAt,
  PATCH_FLOATS,
  type Patches,
  type TrueError,
  trueError,
} from '@/core/denoise';
import { cropLayers, type FilmLayers } from '@/core/film';
import { type Display, toDisplayBytes } from '@/core/image';
import { TILE_SIZE } from '@/core/kernel';
import type { FilmOf } from '../views/film-of';
import type { SmallPicture } from '../views/place';
import { show } from '../views/show';
import type { Question } from './question';

/** A place that is looked at: plain, denoised, and rendered anew with more samples. */
export interface JudgedPlace extends LookedAt {
  plain: SmallPicture;
  denoised: SmallPicture;
  anew: SmallPicture;
  /** Its middle, in fractions of the film. */
  x: number;
  y: number;
}

export interface Judged {
  truth: TrueError;
  places: JudgedPlace[];
}

const SIDE = LOOK_CELLS * TILE_SIZE;
const LAYERS = ['beauty', 'half_a', 'half_b'];

function pictureOf(film: FilmLayers, x: number, y: number, display: Display): SmallPicture {
  const { pixels } = show(cropLayers(film, x, y, SIDE, SIDE), { kind: 'color', layer: 'beauty' }, display, null)!;
  return { width: SIDE, height: SIDE, pixels };
}

/** The patches of a place put together: the mean of all halves. */
function anewOf(
  look: LookedAt,
  patches: Patches,
  floats: Float32Array,
  film: FilmLayers,
  display: Display,
): SmallPicture {
  const planes = [0, 1, 2].map(() => new Float32Array(SIDE * SIDE));
  const area = TILE_SIZE * TILE_SIZE;
  cellsOfLook(look.cell, film).forEach((cell, n) => {
    const own = floats.subarray(patches.cells.indexOf(cell) * PATCH_FLOATS);
    const [x, y] = [(n % LOOK_CELLS) * TILE_SIZE, Math.floor(n / LOOK_CELLS) * TILE_SIZE];
    planes.forEach((plane, c) => {
      for (let i = 0; i < area; i++)
        plane[(y + Math.floor(i / TILE_SIZE)) * SIDE + x + (i % TILE_SIZE)] =
          (own[c * area + i] + own[(3 + c) * area + i] + own[(6 + c) * area + i] + own[(9 + c) * area + i]) / 4;
    });
  });
  const pixels = new Uint8ClampedArray(SIDE * SIDE * 4);
  toDisplayBytes(planes[0], planes[1], planes[2], SIDE * SIDE, display, pixels);
  return { width: SIDE, height: SIDE, pixels };
}

/** A denoised film held against patches that were rendered anew: its true error, and places to look at. */
export const judged: Question<{ of: FilmOf; patches: Patches }, Judged> = async (desk, { of, patches }) => {
  const response = await fetch(`/api/trials/${of.id}/denoised/patches`);
  if (!response.ok) throw new Error('the patches it is held against could not be loaded');
  const floats = new Float32Array(await response.arrayBuffer());
  const [denoised, plain] = await Promise.all([
    desk.cache.film(of, LAYERS),
    desk.cache.film({ ...of, denoised: null }, LAYERS),
  ]);
  const display = desk.sceneExposure;
  const columns = Math.ceil(plain.width / TILE_SIZE);
  const places = patches.looks.map((look): JudgedPlace => {
    const [x, y] = [(look.cell % columns) * TILE_SIZE, Math.floor(look.cell / columns) * TILE_SIZE];
    return {
      ...look,
      plain: pictureOf(plain, x, y, display),
      denoised: pictureOf(denoised, x, y, display),
      anew: anewOf(look, patches, floats, plain, display),
      x: (x + SIDE / 2) / plain.width,
      y: (y + SIDE / 2) / plain.height,
    };
  });
  return { truth: trueError(patches, floats, plain, denoised, display), places };
};
