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

/** Splits words in place into means and differences; `most` is the largest of them. */
export function toWavelets(words: Uint16Array, { start, nx, ny, ox, oy }: Grid, most: number): void {
  const narrow = most < FULL;
  for (let p = 1, p2 = 2; p2 <= Math.min(nx, ny); p = p2, p2 *= 2) {
    const [x1, y1] = [ox * p, oy * p];
    let y = 0;
    for (; y <= ny - p2; y += p2) {
      let at = start + oy * y;
      let x = 0;
      for (; x <= nx - p2; x += p2, at += ox * p2) {
        split(words[at], words[at + x1], narrow);
        const [i00, i01] = [low, high];
        split(words[at + y1], words[at + y1 + x1], narrow);
        const [i10, i11] = [low, high];
        split(i00, i10, narrow);
        words[at] = low;
        words[at + y1] = high;
        split(i01, i11, narrow);
        words[at + x1] = low;
        words[at + y1 + x1] = high;
      }
      if (nx & p) {
        split(words[at], words[at + y1], narrow);
        words[at] = low;
        words[at + y1] = high;
      }
    }
    if (ny & p)
      for (let x = 0, at = start + oy * y; x <= nx - p2; x += p2, at += ox * p2) {
        split(words[at], words[at + x1], narrow);
        words[at] = low;
        words[at + x1] = high;
      }
  }
}

/** Joins them again, in place. */
export function fromWavelets(words: Uint16Array, { start, nx, ny, ox, oy }: Grid, most: number): void {
  const narrow = most < FULL;
  let p2 = 1;
  while (p2 <= Math.min(nx, ny)) p2 *= 2;
  p2 /= 2;
  for (let p = p2 / 2; p >= 1; p2 = p, p /= 2) {
    const [x1, y1] = [ox * p, oy * p];
    let y = 0;
    for (; y <= ny - p2; y += p2) {
      let at = start + oy * y;
      let x = 0;
      for (; x <= nx - p2; x += p2, at += ox * p2) {
        join(words[at], words[at + y1], narrow);
        const [i00, i10] = [low, high];
        join(words[at + x1], words[at + y1 + x1], narrow);
        const [i01, i11] = [low, high];
        join(i00, i01, narrow);
        words[at] = low;
        words[at + x1] = high;
        join(i10, i11, narrow);
        words[at + y1] = low;
        words[at + y1 + x1] = high;
      }
      if (nx & p) {
        join(words[at], words[at + y1], narrow);
        words[at] = low;
        words[at + y1] = high;
      }
    }
    if (ny & p)
      for (let x = 0, at = start + oy * y; x <= nx - p2; x += p2, at += ox * p2) {
        join(words[at], words[at + x1], narrow);
        words[at] = low;
        words[at + x1] = high;
      }
  }
}
