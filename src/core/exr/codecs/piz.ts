/**
 * OpenEXR's PIZ: words of each channel side by side, only those that come given numbers, made wavelets, and Huffman-coded. It
 * gives back the same bits.
 */
import { packWords, unpackWords } from './huffman';
import { channelStarts, channelsOf, countWords, linesOf, type Words } from './planar';
import { fromWavelets, type Grid, toWavelets } from './wavelet';

/** Bytes of a map with a bit for each word. */
const MAP_BYTES = 8192;

/** Grids of a block's channels, one for each word of a sample, where a channel's rows follow each other. */
function gridsOf(block: Words): Grid[] {
  const { words, width, rows } = block;
  return channelStarts(block).flatMap((start, c) =>
    Array.from({ length: words[c] }, (_, j) => ({
      start: start + j,
      nx: width,
      ny: rows,
      ox: words[c],
      oy: words[c] * width,
    })),
  );
}

/** Lines packed; null where they are not fewer bytes. */
export function packPiz(raw: Uint8Array, block: Words): Uint8Array | null {
  const words = channelsOf(raw, block);
  const numbers = new Uint16Array(65536);
  for (let i = 0; i < words.length; i++) numbers[words[i]] = 1;
  // Zero is always there.
  numbers[0] = 0;
  const map = new Uint8Array(MAP_BYTES);
  let most = 0;
  for (let w = 1; w < 65536; w++) {
    if (numbers[w] === 0) continue;
    map[w >> 3] |= 1 << (w & 7);
    numbers[w] = ++most;
  }
  let [first, last] = [0, MAP_BYTES - 1];
  while (first < MAP_BYTES && map[first] === 0) first++;
  while (last > 0 && map[last] === 0) last--;
  for (let i = 0; i < words.length; i++) words[i] = numbers[words[i]];
  for (const grid of gridsOf(block)) toWavelets(words, grid, most);
  const isEmpty = first > last;
  const head = 4 + (isEmpty ? 0 : last - first + 1);
  // What is packed has a map and the lengths of its codes before it.
  if (head + 4 >= raw.length) return null;
  const packed = packWords(words, raw.length - head - 4);
  if (!packed || head + 4 + packed.length >= raw.length) return null;
  const out = new Uint8Array(head + 4 + packed.length);
  const view = new DataView(out.buffer);
  view.setUint16(0, isEmpty ? MAP_BYTES - 1 : first, true);
  view.setUint16(2, isEmpty ? 0 : last, true);
  if (!isEmpty) out.set(map.subarray(first, last + 1), 4);
  view.setUint32(head, packed.length, true);
  out.set(packed, head + 4);
  return out;
}

/** The lines again. Throws where the bytes do not hold them. */
export function unpackPiz(bytes: Uint8Array, block: Words): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (bytes.length < 8) throw new Error('the chunk is cut short');
  const [first, last] = [view.getUint16(0, true), view.getUint16(2, true)];
  if (last >= MAP_BYTES || first >= MAP_BYTES) throw new Error('a map of words that are none');
  const held = Math.max(0, last - first + 1);
  if (4 + held + 4 > bytes.length) throw new Error('the chunk is cut short');
  const map = new Uint8Array(MAP_BYTES);
  map.set(bytes.subarray(4, 4 + held), first);
  const back = new Uint16Array(65536);
  let most = 0;
  for (let w = 1; w < 65536; w++) if ((map[w >> 3] >> (w & 7)) & 1) back[++most] = w;
  const length = view.getUint32(4 + held, true);
  if (length > bytes.length - held - 8) throw new Error('codes end beyond the chunk');
  const count = countWords(block);
  const words = unpackWords(bytes.subarray(8 + held, 8 + held + length), count);
  for (const grid of gridsOf(block)) fromWavelets(words, grid, most);
  for (let i = 0; i < count; i++) words[i] = back[words[i]];
  return linesOf(words, block);
}
