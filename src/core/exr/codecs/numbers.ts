import { put, type Room, room } from './hot';

/** Values that are rounded at once. */
const AT_ONCE = 1 << 16;

/** Half bits of a whole plane, to the nearest, ties to even. `out` has as many values as `src`. */
export function halfPlane(src: Float32Array, out: Uint16Array): void {
  for (let i = 0; i < src.length; i += AT_ONCE) {
    const some = src.subarray(i, i + AT_ONCE);
    const own = room(some.byteLength);
    const [at] = own.at;
    put(own, at, some);
    own.loops.toHalves(at, at, some.length);
    out.set(new Uint16Array(own.memory, at, some.length), i);
  }
}

/** Bits of 65520, the least that rounds to more than half holds, and of 65504, the most that it holds. */
const ROUNDS_BEYOND = 0x477ff000;
const MOST_HALF = 0x477fe000;
/** Largest error of a plane of halves over its values, both in the root mean square. */
const SAFE_ERROR = 1e-3;

/** Calls `of` with pieces of a plane in memory, each filled up to four values with zeros, until it says no; whether it never did. */
function everyPiece(plane: Float32Array, of: (own: Room, at: number, count: number) => boolean): boolean {
  for (let i = 0; i < plane.length; i += AT_ONCE) {
    const some = plane.subarray(i, i + AT_ONCE);
    const own = room(some.byteLength);
    const [at] = own.at;
    put(own, at, some);
    const count = (some.length + 3) & ~3;
    new Float32Array(own.memory, at + some.byteLength, count - some.length).fill(0);
    if (!of(own, at, count)) return false;
  }
  return true;
}

/** Whether every finite value stays finite as half. */
export const fitsHalf = (plane: Float32Array): boolean =>
  everyPiece(plane, ({ loops }, at, count) => loops.largestFinite(at, count) < ROUNDS_BEYOND);

/**
 * Whether a plane may be stored as half: no finite value beyond 65504, and a relative rounding error of at most 1e-3 in the root
 * mean square.
 */
export function halfIsSafe(plane: Float32Array): boolean {
  let [loss, power] = [0, 0];
  const isWithin = everyPiece(plane, ({ loops, memory }, at, count) => {
    if (loops.largestFinite(at, count) > MOST_HALF) return false;
    // Behind what was put in there is room.
    const to = (at + count * 4 + 15) & ~15;
    const sums = new Float64Array(memory, to, 2).fill(0);
    loops.addLosses(at, count, to);
    loss += sums[0];
    power += sums[1];
    return true;
  });
  return isWithin && loss <= power * SAFE_ERROR ** 2;
}

/** Half bits of lines one after another, into `out`. */
export function halfLines(lines: readonly Float32Array[], out: Uint16Array): void {
  const own = room(out.length * 4);
  const [at] = own.at;
  let to = at;
  for (const line of lines) {
    put(own, to, line);
    to += line.byteLength;
  }
  own.loops.toHalves(at, at, out.length);
  out.set(new Uint16Array(own.memory, at, out.length));
}

/** The numbers of a chunk of halves, in its order. They are there until loops are used again. */
export function numbersOf(halves: Uint8Array): Float32Array {
  const count = halves.length >> 1;
  const own = room(halves.length, count * 4);
  const [from, to] = own.at;
  put(own, from, halves);
  own.loops.toFloats(from, to, count);
  return new Float32Array(own.memory, to, count);
}

/** The same of a chunk as `arrange` leaves it, of an even number of bytes. */
export function numbersOfArranged(arranged: Uint8Array): Float32Array {
  const n = arranged.length;
  const own = room(n, n * 2);
  const [from, to] = own.at;
  put(own, from, arranged);
  own.loops.addUp(from, n);
  own.loops.floatsApart(from, from + n / 2, to, n / 2);
  return new Float32Array(own.memory, to, n / 2);
}
