import { put, room } from './hot';

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
