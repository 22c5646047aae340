/**
 * OpenEXR's B44 and B44A: halves in squares of four by four, each one value in full and fifteen differences of six bits from
 * their neighbours, in fourteen bytes; B44A writes a square of one value in three. Floats and whole numbers stay as they are.
 */
import { fromHalf, toHalf } from '../half';
import type { Block } from './block';
import { channelStarts, channelsOf, countWords, linesOf } from './planar';

/** The part of a block that counts here. */
type Halves = Pick<Block, 'types' | 'words' | 'isPerceptual' | 'width' | 'rows'>;

const [SQUARE_BYTES, FLAT_BYTES] = [14, 3];
/** A difference of zero as it is stored, and the largest that six bits hold. */
const [BIAS, MOST] = [0x20, 0x3f];
/** Third bytes from here on mark a square of one value: no shift is that large. */
const FLAT = 13 << 2;

let tables: { exp: Uint16Array; log: Uint16Array } | null = null;
/** What perceptual channels are put through before and after: eighths of e-foldings and back. */
function curves(): { exp: Uint16Array; log: Uint16Array } {
  if (tables) return tables;
  const exp = new Uint16Array(65536);
  const log = new Uint16Array(65536);
  const largest = fromHalf(0x7bff);
  for (let h = 0; h < 65536; h++) {
    const v = fromHalf(h);
    if (Number.isFinite(v)) exp[h] = v >= 8 * Math.log(largest) ? 0x7bff : toHalf(Math.exp(v / 8));
    if (Number.isFinite(v) && v >= 0) log[h] = toHalf(8 * Math.log(v));
  }
  tables = { exp, log };
  return tables;
}

/** Halves as whole numbers of the same order; numbers that are none become zero. */
const ordered = (h: number): number => ((h & 0x7c00) === 0x7c00 ? 0x8000 : h & 0x8000 ? ~h & 0xffff : h | 0x8000);
const unordered = (t: number): number => (t & 0x8000 ? t & 0x7fff : ~t & 0xffff);

/** x / 2^shift rounded, ties to even. */
function shifted(x: number, shift: number): number {
  const doubled = x << 1;
  return (doubled + (1 << shift) - 1 + ((doubled >> (shift + 1)) & 1)) >> (shift + 1);
}

/** Which value each of the fifteen differences is taken from, and of which: down the first column, then along the rows. */
const FROM = [0, 4, 8, 0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14];
const OF = [4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15];

const differences = new Int32Array(15);
const scaled = new Int32Array(16);

/** The differences at a shift; whether all fit into six bits. */
function differ(t: Uint16Array, largest: number, shift: number): boolean {
  for (let i = 0; i < 16; i++) scaled[i] = shifted(largest - t[i], shift);
  let over = 0;
  for (let k = 0; k < 15; k++) {
    const r = scaled[FROM[k]] - scaled[OF[k]] + BIAS;
    differences[k] = r;
    over |= r;
  }
  return (over & ~MOST) === 0;
}

/** Packs sixteen ordered values at `at`; the number of bytes. `isExact`: whether the largest keeps all its bits. */
function packSquare(t: Uint16Array, out: Uint8Array, at: number, flat: boolean, isExact: boolean): number {
  let largest = t[0];
  for (let i = 1; i < 16; i++) if (t[i] > largest) largest = t[i];
  let apart = 0;
  for (let k = 0; k < 15; k++) apart = Math.max(apart, Math.abs(t[FROM[k]] - t[OF[k]]));
  // Rounding takes at most one from a difference: no smaller shift fits.
  let shift = Math.max(0, 31 - Math.clz32(Math.max(1, apart) / (BIAS + 2)));
  while (!differ(t, largest, shift)) shift++;
  if (flat && differences.every((r) => r === BIAS)) {
    out[at] = t[0] >> 8;
    out[at + 1] = t[0];
    out[at + 2] = FLAT | 0xfc;
    return FLAT_BYTES;
  }
  const first = isExact ? largest - (scaled[0] << shift) : t[0];
  out[at] = first >> 8;
  out[at + 1] = first;
  let [held, bits, to] = [shift, 6, at + 2];
  for (let k = 0; k < 15; k++) {
    held = (held << 6) | differences[k];
    bits += 6;
    if (bits >= 8) {
      bits -= 8;
      out[to++] = held >> bits;
    }
  }
  return SQUARE_BYTES;
}

/** Sixteen ordered values again; the number of bytes they took. */
function unpackSquare(bytes: Uint8Array, at: number, t: Uint16Array): number {
  if (bytes[at + 2] >= FLAT) {
    t.fill((bytes[at] << 8) | bytes[at + 1]);
    return FLAT_BYTES;
  }
  if (at + SQUARE_BYTES > bytes.length) throw new Error('the chunk is cut short');
  t[0] = (bytes[at] << 8) | bytes[at + 1];
  const shift = bytes[at + 2] >> 2;
  let [held, bits, from] = [bytes[at + 2] & 3, 2, at + 3];
  for (let k = 0; k < 15; k++) {
    while (bits < 6) {
      held = (held << 8) | bytes[from++];
      bits += 8;
    }
    bits -= 6;
    t[OF[k]] = t[FROM[k]] + (((held >> bits) - BIAS) << shift);
    held &= (1 << bits) - 1;
  }
  return SQUARE_BYTES;
}

/** Lines packed. `flat`: squares of one value in three bytes, as B44A has them. */
export function packB44(raw: Uint8Array, block: Halves, flat: boolean): Uint8Array {
  const { types, words, isPerceptual, width, rows } = block;
  const all = channelsOf(raw, block);
  const squares = Math.ceil(width / 4) * Math.ceil(rows / 4);
  const most = types.reduce((n, t, c) => n + (t === 'half' ? squares * SQUARE_BYTES : words[c] * 2 * width * rows), 0);
  const out = new Uint8Array(most);
  const t = new Uint16Array(16);
  const starts = channelStarts(block);
  let to = 0;
  types.forEach((type, c) => {
    const own = all.subarray(starts[c], starts[c] + words[c] * width * rows);
    if (type !== 'half') {
      for (let i = 0; i < own.length; i++, to += 2) {
        out[to] = own[i];
        out[to + 1] = own[i] >> 8;
      }
      return;
    }
    const curve = isPerceptual[c] ? curves().exp : null;
    for (let y = 0; y < rows; y += 4)
      for (let x = 0; x < width; x += 4) {
        // Beyond the edge its values come again.
        for (let i = 0; i < 16; i++) {
          const h = own[Math.min(y + (i >> 2), rows - 1) * width + Math.min(x + (i & 3), width - 1)];
          t[i] = ordered(curve ? curve[h] : h);
        }
        to += packSquare(t, out, to, flat, !isPerceptual[c]);
      }
  });
  return out.subarray(0, to);
}

/** The lines again. Throws where the bytes do not hold them. */
export function unpackB44(bytes: Uint8Array, block: Halves): Uint8Array {
  const { types, words, isPerceptual, width, rows } = block;
  const all = new Uint16Array(countWords(block));
  const t = new Uint16Array(16);
  const starts = channelStarts(block);
  let at = 0;
  types.forEach((type, c) => {
    const own = all.subarray(starts[c], starts[c] + words[c] * width * rows);
    if (type !== 'half') {
      if (at + own.length * 2 > bytes.length) throw new Error('the chunk is cut short');
      for (let i = 0; i < own.length; i++, at += 2) own[i] = bytes[at] | (bytes[at + 1] << 8);
      return;
    }
    const curve = isPerceptual[c] ? curves().log : null;
    for (let y = 0; y < rows; y += 4)
      for (let x = 0; x < width; x += 4) {
        if (at + FLAT_BYTES > bytes.length) throw new Error('the chunk is cut short');
        at += unpackSquare(bytes, at, t);
        const [across, down] = [Math.min(4, width - x), Math.min(4, rows - y)];
        for (let j = 0; j < down; j++)
          for (let i = 0; i < across; i++) {
            const h = unordered(t[j * 4 + i]);
            own[(y + j) * width + x + i] = curve ? curve[h] : h;
          }
      }
  });
  if (at !== bytes.length) throw new Error(`${bytes.length - at} bytes are left of the chunk`);
  return linesOf(all, block);
}
