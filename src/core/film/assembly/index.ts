// The sum of a film's parts with a factor each.

const LANE: usize = 16;

/**
 * Σ factor·part at `out`: of `n` parts of `count` floats that lie one after another, `stride` bytes apart, with a float each at `factors`. Up to four
 * lanes more are read and written.
 */
export function mix(parts: usize, stride: usize, factors: usize, n: u32, out: usize, count: u32): void {
  const end = out + (<usize>count << 2);
  for (; out < end; out += 4 * LANE, parts += 4 * LANE) {
    let a = f32x4.splat(0), b = a, c = a, d = a;
    let part = parts;
    for (let j: u32 = 0; j < n; j++, part += stride) {
      const k = v128.load32_splat(factors + (j << 2));
      a = f32x4.add(a, f32x4.mul(v128.load(part), k));
      b = f32x4.add(b, f32x4.mul(v128.load(part, LANE), k));
      c = f32x4.add(c, f32x4.mul(v128.load(part, 2 * LANE), k));
      d = f32x4.add(d, f32x4.mul(v128.load(part, 3 * LANE), k));
    }
    v128.store(out, a);
    v128.store(out, b, LANE);
    v128.store(out, c, 2 * LANE);
    v128.store(out, d, 3 * LANE);
  }
}

/** Where memory begins that no loop keeps anything in. */
export function freeFrom(): usize {
  return __heap_base;
}
