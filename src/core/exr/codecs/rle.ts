/**
 * Run lengths as OpenEXR's RLE writes them: a count n ≥ 0 and a byte that comes n + 1 times, or a count −n and n bytes as
 * they are. The bytes have been through the predictor.
 */

/** Bytes from which on equal ones are a run, and most of a run or of bytes as they are. */
const [LEAST_RUN, MOST] = [3, 127];

/** Packed bytes; null where they are not below `most`. */
export function packRuns(src: Uint8Array, most: number): Uint8Array | null {
  const out = new Uint8Array(most);
  let to = 0;
  for (let at = 0; at < src.length; ) {
    let run = 1;
    while (at + run < src.length && run < MOST && src[at + run] === src[at]) run++;
    if (run >= LEAST_RUN) {
      if (to + 2 >= most) return null;
      out[to++] = run - 1;
      out[to++] = src[at];
      at += run;
      continue;
    }
    // As they are, up to the next run.
    let end = at + 1;
    while (end < src.length && end - at < MOST) {
      if (end + 2 < src.length && src[end] === src[end + 1] && src[end] === src[end + 2]) break;
      end++;
    }
    if (to + 1 + end - at >= most) return null;
    out[to++] = 256 - (end - at);
    out.set(src.subarray(at, end), to);
    to += end - at;
    at = end;
  }
  return out.slice(0, to);
}

/** The bytes again. Throws where they are not as many as expected. */
export function unpackRuns(src: Uint8Array, expected: number): Uint8Array {
  const out = new Uint8Array(expected);
  let to = 0;
  for (let at = 0; at < src.length; ) {
    const n = (src[at++] << 24) >> 24;
    const length = n < 0 ? -n : n + 1;
    const taken = n < 0 ? length : 1;
    if (at + taken > src.length) throw new Error('a run ends beyond the chunk');
    if (to + length > expected) throw new Error(`runs come to more than ${expected} bytes`);
    if (n < 0) out.set(src.subarray(at, at + length), to);
    else out.fill(src[at], to, to + length);
    at += taken;
    to += length;
  }
  if (to !== expected) throw new Error(`runs come to ${to} bytes, expected ${expected}`);
  return out;
}
