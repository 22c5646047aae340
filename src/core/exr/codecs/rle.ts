/**
 * Run lengths as OpenEXR's RLE writes them: a count n ≥ 0 and a byte that comes n + 1 times, or a count −n and n bytes as
 * they are. The bytes have been through the predictor.
 */
import { FAULTS, put, room } from './hot';

/** Packed bytes; null where they are not below `most`. */
export function packRuns(src: Uint8Array, most: number): Uint8Array | null {
  const own = room(src.length, most);
  const [from, to] = own.at;
  put(own, from, src);
  const length = own.loops.packRuns(from, src.length, to, most);
  return length < 0 ? null : new Uint8Array(own.memory, to, length).slice();
}

/** The bytes again. Throws where they are not as many as expected. */
export function unpackRuns(src: Uint8Array, expected: number): Uint8Array {
  const own = room(src.length, expected);
  const [from, to] = own.at;
  put(own, from, src);
  const length = own.loops.unpackRuns(from, src.length, to, expected);
  if (length === FAULTS.beyondTheEnd) throw new Error('a run ends beyond the chunk');
  if (length === FAULTS.tooMany) throw new Error(`runs come to more than ${expected} bytes`);
  if (length !== expected) throw new Error(`runs come to ${length} bytes, expected ${expected}`);
  return new Uint8Array(own.memory, to, length).slice();
}
