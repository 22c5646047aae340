import { put, room } from './hot';

/**
 * The byte arrangement in front of deflate in OpenEXR's ZIP and ZIPS: even bytes first, odd bytes
 * after, each then replaced by its difference from the one before, plus 128.
 */
export function arrange(src: Uint8Array): Uint8Array {
  const n = src.length;
  const own = room(n, n);
  const [from, to] = own.at;
  put(own, from, src);
  own.loops.takeApart(from, to, n);
  own.loops.takeDifferences(to, n);
  return new Uint8Array(own.memory, to, n).slice();
}

/** The bytes that `arrange` made differences of. */
export function restore(arranged: Uint8Array): Uint8Array {
  const n = arranged.length;
  const own = room(n, n);
  const [from, to] = own.at;
  put(own, from, arranged);
  own.loops.addUp(from, n);
  own.loops.putTogether(from, to, n);
  return new Uint8Array(own.memory, to, n).slice();
}
