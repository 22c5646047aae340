import { type Block, blockOf } from './codecs/block';
import { pause } from './codecs/pause';
import { unpackPiz } from './codecs/piz';
import { addUp } from './codecs/predictor';
import { pxr24Bytes, restorePxr24 } from './codecs/pxr24';
import { unpackRuns } from './codecs/rle';
import {
  type Attribute,
  type Box,
  type ByteSource,
  type Channel,
  COMPRESSIONS,
  type Compression,
  ExrError,
  FLAG_DEEP,
  FLAG_MULTI_PART,
  FLAG_TILED,
  height,
  MAGIC,
  type PartHeader,
  PIXEL_BYTES,
  PIXEL_TYPES,
  width,
} from './types';
import { unpackLines } from './unpack';

/** zlib inflate that refuses to give more than `most` bytes, handed in by the host. */
export type Inflate = (bytes: Uint8Array, most: number) => Promise<Uint8Array>;

/** A file's headers and chunk tables. */
export interface ExrFile {
  parts: PartHeader[];
  /** File offsets of each part's chunks. */
  chunks: number[][];
  multiPart: boolean;
}

export interface ReadLimits {
  headerBytes: number;
  /** Pixel values of one part, as bytes in memory. */
  partBytes: number;
}
export const READ_LIMITS: ReadLimits = { headerBytes: 16 << 20, partBytes: 2 ** 31 };

class Reader {
  at = 0;
  constructor(private readonly bytes: Uint8Array) {}
  private view = () => new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.byteLength);
  private take(n: number): number {
    const at = this.at;
    if (at + n > this.bytes.length) throw new ExrError('header is cut short', this.bytes.length);
    this.at += n;
    return at;
  }
  u8 = () => this.bytes[this.take(1)];
  i32 = () => this.view().getInt32(this.take(4), true);
  f32 = () => this.view().getFloat32(this.take(4), true);
  f64 = () => this.view().getFloat64(this.take(8), true);
  u64 = () => Number(this.view().getBigUint64(this.take(8), true));
  text(n: number): string {
    const at = this.take(n);
    return new TextDecoder().decode(this.bytes.slice(at, at + n));
  }
  name(): string {
    const from = this.at;
    while (this.u8() !== 0) if (this.at - from > 256) throw new ExrError('name is longer than 255 bytes', from);
    return new TextDecoder().decode(this.bytes.slice(from, this.at - 1));
  }
  box = (): Box => ({ xMin: this.i32(), yMin: this.i32(), xMax: this.i32(), yMax: this.i32() });
}

function readChannels(r: Reader, end: number): Channel[] {
  const channels: Channel[] = [];
  for (let name = r.name(); name !== ''; name = r.name()) {
    const at = r.at;
    const type = PIXEL_TYPES[r.i32()];
    if (!type) throw new ExrError(`channel ${name} has an unknown pixel type`, at);
    r.i32();
    if (r.i32() !== 1 || r.i32() !== 1) throw new ExrError(`channel ${name} is subsampled, which is not supported`, at);
    if (channels.some((c) => c.name === name)) throw new ExrError(`channel ${name} appears twice`, at);
    channels.push({ name, type });
    if (r.at > end) throw new ExrError('channel list runs past its size', at);
  }
  return channels;
}

function readAttribute(r: Reader, type: string, size: number): Attribute | null {
  const floats = () => Array.from({ length: size / 4 }, () => r.f32());
  if (type === 'string') return { type, value: r.text(size) };
  if (type === 'int' && size === 4) return { type, value: r.i32() };
  if (type === 'float' && size === 4) return { type, value: r.f32() };
  if (type === 'double' && size === 8) return { type, value: r.f64() };
  if (type === 'rational' && size === 8) return { type, value: [r.i32(), r.i32()] };
  if ((type === 'chromaticities' && size === 32) || (type === 'm44f' && size === 64)) return { type, value: floats() };
  return null;
}

const OWN = ['channels', 'compression', 'dataWindow', 'displayWindow', 'name'];

function readHeader(r: Reader, limits: ReadLimits): PartHeader | null {
  const start = r.at;
  let channels: Channel[] | null = null;
  let compression: Compression | null = null;
  let dataWindow: Box | null = null;
  let displayWindow: Box | null = null;
  let partName = '';
  const attributes: Record<string, Attribute> = {};
  let any = false;
  for (let name = r.name(); name !== ''; name = r.name()) {
    any = true;
    const type = r.name();
    const size = r.i32();
    const at = r.at;
    if (size < 0 || size > limits.headerBytes) throw new ExrError(`attribute ${name} has size ${size}`, at);
    if (name === 'channels') channels = readChannels(r, at + size);
    else if (name === 'compression') {
      const code = r.u8();
      compression = (Object.keys(COMPRESSIONS) as Compression[]).find((c) => COMPRESSIONS[c].code === code) ?? null;
      if (!compression)
        throw new ExrError(`compression ${code} is not supported (none, RLE, ZIPS, ZIP, PIZ and PXR24 are)`, at);
    } else if (name === 'dataWindow') dataWindow = r.box();
    else if (name === 'displayWindow') displayWindow = r.box();
    else if (name === 'name' && type === 'string') partName = r.text(size);
    else if (name === 'type' && type === 'string') {
      const kind = r.text(size);
      if (kind !== 'scanlineimage') throw new ExrError(`part type ${kind} is not supported`, at);
    } else {
      const value = readAttribute(r, type, size);
      if (value && !OWN.includes(name)) attributes[name] = value;
      else r.text(size);
    }
    if (r.at > at + size) throw new ExrError(`attribute ${name} runs past its size ${size}`, at);
    r.at = at + size;
  }
  if (!any) return null;
  if (!channels || !compression || !dataWindow || !displayWindow)
    throw new ExrError('header lacks channels, compression or a window', start);
  const w = width(dataWindow);
  const h = height(dataWindow);
  if (!(w > 0 && h > 0)) throw new ExrError(`data window of ${w}×${h} pixels`, start);
  if (w * h * Math.max(1, channels.length) * 4 > limits.partBytes)
    throw new ExrError(`part of ${w}×${h}×${channels.length} exceeds ${limits.partBytes} bytes`, start);
  return { name: partName, channels, compression, dataWindow, displayWindow, attributes };
}

/** Reads headers and chunk tables. Throws `ExrError`; never takes more memory than the limits say. */
export async function readHeaders(source: ByteSource, limits: ReadLimits = READ_LIMITS): Promise<ExrFile> {
  const take = async (length: number) => new Reader(await source.read(0, Math.min(source.size, length)));
  let loaded = Math.min(65536, source.size);
  for (;;) {
    try {
      const r = await take(loaded);
      if (r.i32() !== MAGIC) throw new ExrError('not an OpenEXR file', 0);
      const version = r.i32();
      if ((version & 255) !== 2) throw new ExrError(`version ${version & 255} is not supported`, 4);
      if (version & FLAG_TILED) throw new ExrError('tiled files are not supported', 4);
      if (version & FLAG_DEEP) throw new ExrError('deep files are not supported', 4);
      const multiPart = (version & FLAG_MULTI_PART) !== 0;
      const parts: PartHeader[] = [];
      for (let h = readHeader(r, limits); h; h = multiPart ? readHeader(r, limits) : null) {
        parts.push(h);
        if (parts.length > 4096) throw new ExrError('more than 4096 parts', r.at);
      }
      if (parts.length === 0) throw new ExrError('no part', r.at);
      const counts = parts.map((p) => Math.ceil(height(p.dataWindow) / COMPRESSIONS[p.compression].lines));
      const total = counts.reduce((a, b) => a + b, 0);
      if (r.at + total * 8 > source.size) throw new ExrError('chunk table is cut short', source.size);
      const table = new Reader(await source.read(r.at, total * 8));
      return { parts, multiPart, chunks: counts.map((n) => Array.from({ length: n }, () => table.u64())) };
    } catch (error) {
      const short =
        error instanceof ExrError && error.at === loaded && loaded < source.size && loaded < limits.headerBytes;
      if (!short) throw error;
      loaded = Math.min(source.size, loaded * 8);
    }
  }
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
  const { lines } = COMPRESSIONS[part.compression];
  const lineBytes = part.channels.reduce((n, c) => n + PIXEL_BYTES[c.type] * w, 0);
  // A truncated or lying file is found out before memory for its pixels is taken.
  const head = file.multiPart ? 12 : 8;
  for (const offset of file.chunks[index]) {
    if (!(offset >= 0) || offset + head > source.size)
      throw new ExrError('chunk offset lies outside the file', Math.min(offset, source.size));
  }
  const planes = part.channels.map((c) => (c.type === 'uint' ? new Uint32Array(w * h) : new Float32Array(w * h)));
  const seen = new Set<number>();
  const read = async (offset: number) => {
    const header = await source.read(offset, head);
    const view = new DataView(header.buffer, header.byteOffset, head);
    if (file.multiPart && view.getInt32(0, true) !== index)
      throw new ExrError(`chunk belongs to part ${view.getInt32(0, true)}, expected ${index}`, offset);
    const y0 = view.getInt32(head - 8, true) - part.dataWindow.yMin;
    const size = view.getInt32(head - 4, true);
    if (y0 < 0 || y0 >= h || y0 % lines !== 0) throw new ExrError(`chunk begins at line ${y0}`, offset);
    // There are as many chunks as the picture needs: one that comes twice stands in another's place.
    if (seen.has(y0)) throw new ExrError(`the chunk of line ${y0 + part.dataWindow.yMin} comes twice`, offset);
    seen.add(y0);
    const rows = Math.min(lines, h - y0);
    const expected = rows * lineBytes;
    if (size < 0 || size > expected || offset + head + size > source.size)
      throw new ExrError(`chunk of ${size} bytes, at most ${expected} fit`, offset);
    const packed = await source.read(offset + head, size);
    const isPacked = size < expected;
    const block = blockOf(part.channels, w, rows);
    const raw = isPacked ? await unpackChunk(part.compression, packed, expected, block, offset, inflate) : packed;
    if (part.compression === 'piz') await pause();
    unpackLines(raw, isPacked && leavesApart(part.compression), part.channels, planes, y0, rows, w);
  };
  // A few chunks at once, so that a host with threads inflates on some while others are unpacked.
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
  await Promise.all(Array.from({ length: CHUNKS_AT_ONCE }, readOn));
  if (fault !== null) throw fault;
  return planes;
}

const CHUNKS_AT_ONCE = 8;

/** Whether what is unpacked has the low bytes of its words before the high ones. */
const leavesApart = (compression: Compression) => compression !== 'piz' && compression !== 'pxr24';

async function unpackChunk(
  compression: Compression,
  packed: Uint8Array,
  expected: number,
  block: Block,
  offset: number,
  inflate: Inflate,
): Promise<Uint8Array> {
  if (compression === 'none') throw new ExrError(`chunk of ${packed.length} bytes, expected ${expected}`, offset);
  let raw: Uint8Array;
  try {
    if (compression === 'piz') return unpackPiz(packed, block);
    if (compression === 'pxr24') raw = await inflate(packed, pxr24Bytes(block));
    else raw = compression === 'rle' ? unpackRuns(packed, expected) : await inflate(packed, expected);
  } catch (error) {
    throw new ExrError(`chunk does not unpack: ${(error as Error).message}`, offset);
  }
  const whole = compression === 'pxr24' ? pxr24Bytes(block) : expected;
  if (raw.length !== whole) throw new ExrError(`chunk inflates to ${raw.length} bytes, expected ${whole}`, offset);
  if (compression === 'pxr24') return restorePxr24(raw, block);
  addUp(raw);
  return raw;
}
