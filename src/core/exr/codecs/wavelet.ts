/**
 * Haar wavelets over 16-bit words as OpenEXR's PIZ has them: means and differences of neighbours, level by level. Words
 * below 2^14 take sums as they are; others wrap around.
 */
import { type Loops, put, room } from './hot';

/** A channel of a block: where its first word lies, words and rows, and words to the next in a row and to the next row. */
export interface Grid {
  start: number;
  nx: number;
  ny: number;
  ox: number;
  oy: number;
}

const FULL = 1 << 14;

function transform(words: Uint16Array, grid: Grid, most: number, way: 'toWavelets' | 'fromWavelets'): void {
  const { start, nx, ny, ox, oy } = grid;
  const own = words.subarray(start, start + (ny - 1) * oy + (nx - 1) * ox + 1);
  const space = room(own.byteLength);
  const [at] = space.at;
  put(space, at, own);
  const loop: Loops[typeof way] = space.loops[way];
  loop(at, nx, ny, ox * 2, oy * 2, most < FULL);
  own.set(new Uint16Array(space.memory, at, own.length));
}

/** Splits words in place into means and differences; `most` is the largest of them. */
export const toWavelets = (words: Uint16Array, grid: Grid, most: number): void =>
  transform(words, grid, most, 'toWavelets');

/** Joins them again, in place. */
export const fromWavelets = (words: Uint16Array, grid: Grid, most: number): void =>
  transform(words, grid, most, 'fromWavelets');
