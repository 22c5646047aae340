/**
 * Haar wavelets over 16-bit words as OpenEXR's PIZ has them: means and differences of neighbours, level by level. Words
 * below 2^14 take sums as they are; others wrap around.
 */

/** A channel of a block: where its first word lies, words and rows, and words to the next in a row and to the next row. */
export interface Grid {
  start: number;
  nx: number;
  ny: number;
  ox: number;
  oy: number;
}

const FULL = 1 << 14;
const OFFSET = 1 << 15;
const MASK = 0xffff;

/** Results of the step last done. */
let low = 0;
let high = 0;

function split(a: number, b: number, narrow: boolean): void {
  if (narrow) {
    const [p, q] = [(a << 16) >> 16, (b << 16) >> 16];
    low = ((p + q) >> 1) & MASK;
    high = (p - q) & MASK;
    return;
  }
  const shifted = (a + OFFSET) & MASK;
  const d = shifted - b;
  const m = (shifted + b) >> 1;
  low = d < 0 ? (m + OFFSET) & MASK : m;
  high = d & MASK;
}

function join(l: number, h: number, narrow: boolean): void {
  if (narrow) {
    const d = (h << 16) >> 16;
    const a = ((l << 16) >> 16) + (d & 1) + (d >> 1);
    low = a & MASK;
    high = (a - d) & MASK;
    return;
  }
  const b = (l - (h >> 1)) & MASK;
  low = (h + b - OFFSET) & MASK;
  high = b;
}

/** What is done to two words: their means and differences go to `low` and `high`, or the words come from them. */
type Step = (a: number, b: number, narrow: boolean) => void;

/** Does a step to two words in place. */
function pair(words: Uint16Array, a: number, b: number, step: Step, narrow: boolean): void {
  step(words[a], words[b], narrow);
  words[a] = low;
  words[b] = high;
}

/** Does a step to all words `p` apart: across then down to split them, down then across to join them. */
function level(
  words: Uint16Array,
  { start, nx, ny, ox, oy }: Grid,
  p: number,
  isSplit: boolean,
  narrow: boolean,
): void {
  const step = isSplit ? split : join;
  const [x1, y1] = [ox * p, oy * p];
  const [first, second] = isSplit ? [x1, y1] : [y1, x1];
  let y = 0;
  for (; y <= ny - 2 * p; y += 2 * p) {
    let at = start + oy * y;
    for (let x = 0; x <= nx - 2 * p; x += 2 * p, at += 2 * x1) {
      pair(words, at, at + first, step, narrow);
      pair(words, at + second, at + second + first, step, narrow);
      pair(words, at, at + second, step, narrow);
      pair(words, at + first, at + first + second, step, narrow);
    }
    if (nx & p) pair(words, at, at + y1, step, narrow);
  }
  if (!(ny & p)) return;
  for (let x = 0, at = start + oy * y; x <= nx - 2 * p; x += 2 * p, at += 2 * x1)
    pair(words, at, at + x1, step, narrow);
}

/** Splits words in place into means and differences; `most` is the largest of them. */
export function toWavelets(words: Uint16Array, grid: Grid, most: number): void {
  for (let p = 1; 2 * p <= Math.min(grid.nx, grid.ny); p *= 2) level(words, grid, p, true, most < FULL);
}

/** Joins them again, in place. */
export function fromWavelets(words: Uint16Array, grid: Grid, most: number): void {
  let p = 1;
  while (2 * p <= Math.min(grid.nx, grid.ny)) p *= 2;
  for (p /= 2; p >= 1; p /= 2) level(words, grid, p, false, most < FULL);
}
