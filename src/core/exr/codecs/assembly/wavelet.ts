// Haar wavelets over 16-bit words, level by level, as `../wavelet` tells them. Narrow words take sums as they are, others wrap around.

const OFFSET: i32 = 1 << 15;
const MASK: i32 = 0xffff;

// @ts-ignore: decorator
@inline
function split(at: usize, next: usize, isNarrow: bool): void {
  if (isNarrow) {
    const p: i32 = load<i16>(at), q: i32 = load<i16>(next);
    store<u16>(at, (p + q) >> 1);
    store<u16>(next, p - q);
    return;
  }
  const shifted = ((<i32>load<u16>(at)) + OFFSET) & MASK, b: i32 = load<u16>(next);
  const d = shifted - b, m = (shifted + b) >> 1;
  store<u16>(at, d < 0 ? m + OFFSET : m);
  store<u16>(next, d);
}

// @ts-ignore: decorator
@inline
function join(at: usize, next: usize, isNarrow: bool): void {
  if (isNarrow) {
    const d: i32 = load<i16>(next), a = <i32>load<i16>(at) + (d & 1) + (d >> 1);
    store<u16>(at, a);
    store<u16>(next, a - d);
    return;
  }
  const h: i32 = load<u16>(next), b = (<i32>load<u16>(at) - (h >> 1)) & MASK;
  store<u16>(at, h + b - OFFSET);
  store<u16>(next, b);
}

// @ts-ignore: decorator
@inline
function step(at: usize, next: usize, isSplit: bool, isNarrow: bool): void {
  if (isSplit) split(at, next, isNarrow);
  else join(at, next, isNarrow);
}

/** Does a step to all words `p` apart: across then down to split them, down then across to join them. `ox`, `oy`: bytes to the next in a row and to the next row. */
// @ts-ignore: decorator
@inline
function level(start: usize, nx: i32, ny: i32, ox: usize, oy: usize, p: i32, isSplit: bool, isNarrow: bool): void {
  const x1 = ox * p, y1 = oy * p;
  const first = isSplit ? x1 : y1, second = isSplit ? y1 : x1;
  let y = 0, row = start;
  for (; y <= ny - 2 * p; y += 2 * p, row += 2 * y1) {
    let at = row;
    for (let x = 0; x <= nx - 2 * p; x += 2 * p, at += 2 * x1) {
      step(at, at + first, isSplit, isNarrow);
      step(at + second, at + second + first, isSplit, isNarrow);
      step(at, at + second, isSplit, isNarrow);
      step(at + first, at + first + second, isSplit, isNarrow);
    }
    if (nx & p) step(at, at + y1, isSplit, isNarrow);
  }
  if ((ny & p) == 0) return;
  for (let x = 0; x <= nx - 2 * p; x += 2 * p, row += 2 * x1) step(row, row + x1, isSplit, isNarrow);
}

export function toWavelets(at: usize, nx: i32, ny: i32, ox: usize, oy: usize, isNarrow: bool): void {
  const least = min(nx, ny);
  for (let p = 1; 2 * p <= least; p *= 2)
    if (isNarrow) level(at, nx, ny, ox, oy, p, true, true);
    else level(at, nx, ny, ox, oy, p, true, false);
}

export function fromWavelets(at: usize, nx: i32, ny: i32, ox: usize, oy: usize, isNarrow: bool): void {
  const least = min(nx, ny);
  let p = 1;
  while (2 * p <= least) p *= 2;
  for (p /= 2; p >= 1; p /= 2)
    if (isNarrow) level(at, nx, ny, ox, oy, p, false, true);
    else level(at, nx, ny, ox, oy, p, false, false);
}
