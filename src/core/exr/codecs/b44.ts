/**
 * OpenEXR's B44 and B44A: halves in squares of four by four, each one value in full and fifteen differences of six bits from
 * their neighbours, in fourteen bytes; B44A writes a square of one value in three. Floats and whole numbers stay as they are.
 */
import { fromHalf, toHalf } from '../half';
import type { Block } from './block';
import { put, room } from './hot';
import { channelStarts, channelsOf, countWords, linesOf, wordsOf } from './planar';

/** The part of a block that counts here. */
type Halves = Pick<Block, 'types' | 'words' | 'isPerceptual' | 'width' | 'rows'>;

const SQUARE_BYTES = 14;

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

/** Takes room for planes of halves, bytes, and what perceptual channels are put through. */
function roomFor(plane: number, bytes: number, curve: Uint16Array) {
  const own = room(plane, bytes, curve.byteLength);
  put(own, own.at[2], curve);
  return own;
}

/** Lines packed. `flat`: squares of one value in three bytes, as B44A has them. */
export function packB44(raw: Uint8Array, block: Halves, flat: boolean): Uint8Array {
  const { types, words, isPerceptual, width, rows } = block;
  const all = channelsOf(raw, block);
  const squares = Math.ceil(width / 4) * Math.ceil(rows / 4);
  const most = types.reduce((n, t, c) => n + (t === 'half' ? squares * SQUARE_BYTES : words[c] * 2 * width * rows), 0);
  const own = roomFor(width * rows * 2, most, curves().exp);
  const [plane, begin, curve] = own.at;
  const starts = channelStarts(block);
  let to = begin;
  types.forEach((type, c) => {
    const channel = all.subarray(starts[c], starts[c] + words[c] * width * rows);
    if (type === 'half') {
      put(own, plane, channel);
      to = own.loops.packSquares(plane, width, rows, isPerceptual[c] ? curve : 0, flat, to);
    } else {
      put(own, to, channel);
      to += channel.byteLength;
    }
  });
  return new Uint8Array(own.memory, begin, to - begin).slice();
}

/** The lines again. Throws where the bytes do not hold them. */
export function unpackB44(bytes: Uint8Array, block: Halves): Uint8Array {
  const { types, words, isPerceptual, width, rows } = block;
  const all = new Uint16Array(countWords(block));
  const own = roomFor(width * rows * 2, bytes.length, curves().log);
  const [plane, begin, curve] = own.at;
  put(own, begin, bytes);
  const starts = channelStarts(block);
  const end = begin + bytes.length;
  let at = begin;
  types.forEach((type, c) => {
    const channel = all.subarray(starts[c], starts[c] + words[c] * width * rows);
    if (type === 'half') {
      at = own.loops.unpackSquares(at, end, width, rows, isPerceptual[c] ? curve : 0, plane);
      if (at === 0) throw new Error('the chunk is cut short');
      channel.set(new Uint16Array(own.memory, plane, channel.length));
    } else {
      if (at + channel.byteLength > end) throw new Error('the chunk is cut short');
      channel.set(wordsOf(new Uint8Array(own.memory, at, channel.byteLength)));
      at += channel.byteLength;
    }
  });
  if (at !== end) throw new Error(`${end - at} bytes are left of the chunk`);
  return linesOf(all, block);
}
