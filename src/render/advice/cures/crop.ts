import type { Film } from '@/core/film';
import { type Display, toDisplayBytes } from '@/core/image';
import { TILE_SIZE } from '@/core/kernel';
import type { SmallPicture } from '../../views/place';

/** Patches that are shown side by side. */
const MOST = 2;

/** The cells whose noise is largest: whole ones, where there are such, since what is cut at the film's edge shows little. */
export function noisiest(film: Film, cells: readonly number[], squares: readonly number[]): number[] {
  const isWhole = (cell: number) => {
    const { w, h } = film.place(cell);
    return w === TILE_SIZE && h === TILE_SIZE;
  };
  return cells
    .map((cell, i) => ({ cell, whole: isWhole(cell), square: squares[i] }))
    .sort((a, b) => Number(b.whole) - Number(a.whole) || b.square - a.square)
    .slice(0, MOST)
    .map(({ cell }) => cell);
}

/** Cells of a film side by side, as displayed. */
export function cropOf(film: Film, cells: readonly number[], exposure: Display): SmallPicture {
  const [width, height] = [TILE_SIZE * cells.length, TILE_SIZE];
  const beauty = film.beauty();
  const across = film.spec.region.width;
  const planes = beauty.map((plane) => {
    const out = new Float32Array(width * height);
    cells.forEach((cell, n) => {
      const { x, y, w, h } = film.place(cell);
      for (let j = 0; j < h; j++)
        out.set(plane.subarray((y + j) * across + x, (y + j) * across + x + w), j * width + n * TILE_SIZE);
    });
    return out;
  });
  const pixels = new Uint8ClampedArray(width * height * 4);
  toDisplayBytes(planes[0], planes[1], planes[2], width * height, exposure, pixels);
  return { width, height, pixels };
}
