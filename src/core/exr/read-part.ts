import { chunksAtOnce, leavesArranged, unpackChunk } from './codecs';
import { type Block, blockOf } from './codecs/block';
import type { Inflate } from './codecs/codec';
import { numbersOf, numbersOfArranged } from './codecs/numbers';
import { restore } from './codecs/predictor';
import type { ExrFile } from './read';
import {
  type ByteSource,
  type Channel,
  COMPRESSIONS,
  type Compression,
  ExrError,
  height,
  type PartHeader,
  PIXEL_BYTES,
  type Tiles,
  width,
} from './types';
import { unpackLines } from './unpack';

const planesFor = (channels: readonly Channel[], size: number): (Float32Array | Uint32Array)[] =>
  channels.map((c) => (c.type === 'uint' ? new Uint32Array(size) : new Float32Array(size)));

/** Which pixels of a part a chunk holds, from its corner, and that in words. */
interface Place {
  x0: number;
  y0: number;
  across: number;
  rows: number;
  words: string;
}

/** Where a chunk says that it lies: `at` is where that begins in its head, `offset` where it is in the file. */
type PlaceOf = (head: DataView, at: number, offset: number) => Place;

function linesPlace({ dataWindow, compression }: PartHeader): PlaceOf {
  const { lines } = COMPRESSIONS[compression];
  const [w, h] = [width(dataWindow), height(dataWindow)];
  return (head, at, offset) => {
    const line = head.getInt32(at, true);
    const y0 = line - dataWindow.yMin;
    if (y0 < 0 || y0 >= h || y0 % lines !== 0) throw new ExrError(`chunk begins at line ${y0}`, offset);
    return { x0: 0, y0, across: w, rows: Math.min(lines, h - y0), words: `line ${line}` };
  };
}

function tilePlace({ dataWindow }: PartHeader, tiles: Tiles): PlaceOf {
  const [w, h] = [width(dataWindow), height(dataWindow)];
  return (head, at, offset) => {
    const [column, row, ...level] = [0, 4, 8, 12].map((k) => head.getInt32(at + k, true));
    const words = `tile ${column}, ${row}`;
    const [x0, y0] = [column * tiles.width, row * tiles.height];
    if (column < 0 || row < 0 || x0 >= w || y0 >= h || level.some((l) => l !== 0))
      throw new ExrError(`chunk is ${words} of level ${level.join(', ')}`, offset);
    return { x0, y0, across: Math.min(tiles.width, w - x0), rows: Math.min(tiles.height, h - y0), words };
  };
}

/** Reads one part's planes, in the order of its channels. */
export async function readPart(
  source: ByteSource,
  file: ExrFile,
  index: number,
  inflate: Inflate,
): Promise<(Float32Array | Uint32Array)[]> {
  const part = file.parts[index];
  const w = width(part.dataWindow);
  const h = height(part.dataWindow);
  // A truncated or lying file is found out before memory for its pixels is taken.
  const placeOf = part.tiles ? tilePlace(part, part.tiles) : linesPlace(part);
  const head = (file.multiPart ? 4 : 0) + (part.tiles ? 20 : 8);
  for (const offset of file.chunks[index]) {
    if (!(offset >= 0) || offset + head > source.size)
      throw new ExrError('chunk offset lies outside the file', Math.min(offset, source.size));
  }
  const planes = planesFor(part.channels, w * h);
  const isAllHalf = part.channels.every((c) => c.type === 'half');
  const seen = new Set<string>();
  const read = async (offset: number) => {
    const header = await source.read(offset, head);
    const view = new DataView(header.buffer, header.byteOffset, head);
    if (file.multiPart && view.getInt32(0, true) !== index)
      throw new ExrError(`chunk belongs to part ${view.getInt32(0, true)}, expected ${index}`, offset);
    const place = placeOf(view, file.multiPart ? 4 : 0, offset);
    const size = view.getInt32(head - 4, true);
    // There are as many chunks as the picture needs: one that comes twice stands in another's place.
    if (seen.has(place.words)) throw new ExrError(`the chunk of ${place.words} comes twice`, offset);
    seen.add(place.words);
    const { x0, y0, across, rows } = place;
    const expected = part.channels.reduce((n, c) => n + PIXEL_BYTES[c.type] * across * rows, 0);
    if (size < 0 || size > expected || offset + head + size > source.size)
      throw new ExrError(`chunk of ${size} bytes, at most ${expected} fit`, offset);
    const packed = await source.read(offset + head, size);
    const isPacked = size < expected;
    const block = blockOf(part.channels, across, rows);
    const unpacked = isPacked ? await unpack(part.compression, packed, expected, block, offset, inflate) : packed;
    const isArranged = isPacked && leavesArranged(part.compression);
    if (isAllHalf) {
      const numbers = isArranged ? numbersOfArranged(unpacked) : numbersOf(unpacked);
      for (let y = 0, at = 0; y < rows; y++)
        for (const plane of planes) {
          plane.set(numbers.subarray(at, at + across), (y0 + y) * w + x0);
          at += across;
        }
      return;
    }
    const raw = isArranged ? restore(unpacked) : unpacked;
    if (across === w) {
      unpackLines(raw, part.channels, planes, y0, rows, w);
      return;
    }
    const own = planesFor(part.channels, across * rows);
    unpackLines(raw, part.channels, own, 0, rows, across);
    own.forEach((tile, c) => {
      for (let y = 0; y < rows; y++) planes[c].set(tile.subarray(y * across, (y + 1) * across), (y0 + y) * w + x0);
    });
  };
  const left = file.chunks[index].values();
  let fault: unknown = null;
  const readOn = async () => {
    for (const offset of left) {
      if (fault !== null) return;
      await read(offset).catch((error) => {
        fault ??= error;
      });
    }
  };
  await Promise.all(Array.from({ length: chunksAtOnce(part.compression, inflate) }, readOn));
  if (fault !== null) throw fault;
  return planes;
}

async function unpack(
  compression: Compression,
  packed: Uint8Array,
  expected: number,
  block: Block,
  offset: number,
  inflate: Inflate,
): Promise<Uint8Array> {
  if (compression === 'none') throw new ExrError(`chunk of ${packed.length} bytes, expected ${expected}`, offset);
  try {
    return await unpackChunk(compression, packed, expected, block, inflate);
  } catch (error) {
    throw new ExrError(`chunk does not unpack: ${(error as Error).message}`, offset);
  }
}
