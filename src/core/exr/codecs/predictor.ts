import { isBig } from './planar';

/**
 * The byte arrangement in front of deflate in OpenEXR's ZIP and ZIPS: even bytes first, odd bytes
 * after, each then replaced by its difference from the one before, plus 128.
 */
export function arrange(src: Uint8Array): Uint8Array {
  const n = src.length;
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0, j = 0; i < n; i += 2, j++) out[j] = src[i];
  for (let i = 1, j = half; i < n; i += 2, j++) out[j] = src[i];
  let previous = n > 0 ? out[0] : 0;
  for (let i = 1; i < n; i++) {
    const v = out[i];
    out[i] = (v - previous + 384) & 255;
    previous = v;
  }
  return out;
}

const EVEN = 0x00ff00ff;

/**
 * Undoes the differences of `arrange`, in place, four bytes at a time where they are aligned. The bytes
 * stay apart: the 16-bit word k is bytes[k] + 256·bytes[k + half], half = ⌈n/2⌉.
 */
export function addUp(bytes: Uint8Array): void {
  const n = bytes.length;
  if (n === 0) return;
  let sum = 0;
  let done = 0;
  bytes[0] ^= 0x80;
  if (!isBig && bytes.byteOffset % 4 === 0) {
    const words = new Int32Array(bytes.buffer, bytes.byteOffset, n >> 2);
    for (let i = 0; i < words.length; i++) {
      // Flipping the top bits takes 128 from every byte; then bytes 0 and 2, and 1 and 3, are summed in pairs.
      const v = words[i] ^ 0x80808080;
      const even = v & EVEN;
      const pair = (((v >>> 8) & EVEN) + even) & EVEN;
      const before = ((pair << 16) + (sum | (sum << 16))) | 0;
      const odd = (pair + before) & EVEN;
      words[i] = ((even + before) & EVEN) | (odd << 8);
      sum = odd >>> 16;
    }
    done = words.length * 4;
  }
  for (let i = done; i < n; i++) {
    sum = (sum + bytes[i] - 128) & 255;
    bytes[i] = sum;
  }
}

/** Bytes that stand apart as `arrange` leaves them, in their order again. */
export function together(apart: Uint8Array): Uint8Array {
  const out = new Uint8Array(apart.length);
  const half = (apart.length + 1) >> 1;
  for (let i = 0; i < apart.length; i++) out[i] = apart[(i >> 1) + (i & 1) * half];
  return out;
}
