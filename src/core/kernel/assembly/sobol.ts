// Owen-scrambled Sobol points by hashing [Burley 2020], as padded (0,2)-sequences: each pair of
// dimensions has its own index shuffle and its own scrambles, so pairs are independent of each other.

import { plainRandom } from './study';

/** First and second coordinate of the last pair drawn, in [0, 1). */
export let r0: f32 = 0;
export let r1: f32 = 0;

// @ts-ignore: decorator
@inline
function reverseBits(v: u32): u32 {
  let x = v;
  x = ((x >> 1) & 0x55555555) | ((x & 0x55555555) << 1);
  x = ((x >> 2) & 0x33333333) | ((x & 0x33333333) << 2);
  x = ((x >> 4) & 0x0f0f0f0f) | ((x & 0x0f0f0f0f) << 4);
  x = ((x >> 8) & 0x00ff00ff) | ((x & 0x00ff00ff) << 8);
  return (x >> 16) | (x << 16);
}

/** Laine–Karras permutation with Burley's constants: scrambles upward from the low bits. */
// @ts-ignore: decorator
@inline
function permute(v: u32, seed: u32): u32 {
  let x = v + seed;
  x ^= x * 0x6c50b47c;
  x ^= x * 0xb82f1e52;
  x ^= x * 0xc7afe638;
  x ^= x * 0x8d22f6e6;
  return x;
}

/** Avalanche of a 32-bit word: the finaliser of MurmurHash3. */
// @ts-ignore: decorator
@inline
export function hash(v: u32): u32 {
  let x = v;
  x ^= x >> 16;
  x *= 0x85ebca6b;
  x ^= x >> 13;
  x *= 0xc2b2ae35;
  x ^= x >> 16;
  return x;
}

/** Multiplication by the Pascal matrix mod 2: Sobol's second dimension before bit reversal. */
// @ts-ignore: decorator
@inline
function pascal(v: u32): u32 {
  let x = v;
  x ^= (x >> 1) & 0x55555555;
  x ^= (x >> 2) & 0x33333333;
  x ^= (x >> 4) & 0x0f0f0f0f;
  x ^= (x >> 8) & 0x00ff00ff;
  x ^= (x >> 16) & 0x0000ffff;
  return x;
}

/** A hashed word as a number in [0, 1). */
// @ts-ignore: decorator
@inline
export function fraction(h: u32): f32 {
  return f32(h >> 8) * f32(5.9604644775390625e-8);
}

/** The same by hashing alone: independent numbers. */
function drawPlain(stream: u32, index: u32, pair: u32): void {
  const h = hash(stream ^ hash(index * 0x9e3779b9 + hash(pair ^ 0x7f4a7c15)));
  r0 = fraction(h);
  r1 = fraction(hash(h ^ 0x63d83595));
}

/** Index last drawn, and its bits reversed: a path draws many pairs of one point. */
let lastIndex: u32 = 0;
let lastReversed: u32 = 0;

/** Draws pair `pair` of point `index` of the stream `stream` (one stream a pixel and half). */
export function draw(stream: u32, index: u32, pair: u32): void {
  if (plainRandom) { drawPlain(stream, index, pair); return; }
  const h = hash(stream ^ (pair * 0x9e3779b9 + 0x7f4a7c15));
  if (index != lastIndex) {
    lastIndex = index;
    lastReversed = reverseBits(index);
  }
  const shuffled = reverseBits(permute(lastReversed, h));
  // Both coordinates side by side, four bytes each.
  const both = i64x2.splat(
    i64(permute(shuffled, hash(h ^ 0xa511e9b3))) | (i64(permute(pascal(shuffled), hash(h ^ 0x63d83595))) << 32),
  );
  const turned = i8x16.shuffle(both, both, 3, 2, 1, 0, 7, 6, 5, 4, 3, 2, 1, 0, 7, 6, 5, 4);
  const low = v128.and(turned, i8x16.splat(15)), high = i8x16.shr_u(turned, 4);
  const reversed = v128.or(
    i8x16.swizzle(i8x16(0, -128, 64, -64, 32, -96, 96, -32, 16, -112, 80, -48, 48, -80, 112, -16), low),
    i8x16.swizzle(i8x16(0, 8, 4, 12, 2, 10, 6, 14, 1, 9, 5, 13, 3, 11, 7, 15), high),
  );
  const scaled = f32x4.mul(f32x4.convert_i32x4_u(i32x4.shr_u(reversed, 8)), f32x4.splat(f32(5.9604644775390625e-8)));
  r0 = f32x4.extract_lane(scaled, 0);
  r1 = f32x4.extract_lane(scaled, 1);
}

/** The stream of a pixel's half: a function of seed, pixel and half alone. */
export function streamOf(seed: u32, pixel: u32, half: u32): u32 {
  return hash(hash(pixel * 2 + half + 0x1b873593) ^ hash(seed ^ 0xe6546b64));
}
