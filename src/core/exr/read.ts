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
  LEVEL_MODES,
  MAGIC,
  type PartHeader,
  PIXEL_TYPES,
  type Tiles,
  width,
} from './types';

/** A file's headers and chunk tables. */
export interface ExrFile {
  parts: PartHeader[];
  /** File offsets of each part's chunks; of tiles those of the whole picture, not of smaller ones beside it. */
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
    const isPerceptual = (r.i32() & 255) !== 0;
    if (r.i32() !== 1 || r.i32() !== 1) throw new ExrError(`channel ${name} is subsampled, which is not supported`, at);
    if (channels.some((c) => c.name === name)) throw new ExrError(`channel ${name} appears twice`, at);
    channels.push(isPerceptual ? { name, type, isPerceptual } : { name, type });
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

/** How a part is divided into tiles. Throws for what no file may say. */
function readTiles(r: Reader): Tiles {
  const at = r.at;
  const [width, height, mode] = [r.i32(), r.i32(), r.u8()];
  const levels = LEVEL_MODES[mode & 15];
  if (!(width > 0 && height > 0) || !levels || mode >> 4 > 1)
    throw new ExrError(`tiles of ${width}×${height} in mode ${mode}`, at);
  return { width, height, levels, roundsUp: mode >> 4 === 1 };
}

/** How many chunks a part has, and how many of them, which come first, are of the whole picture. */
function countChunks({ dataWindow, compression, tiles }: PartHeader): { whole: number; all: number } {
  const [w, h] = [width(dataWindow), height(dataWindow)];
  if (!tiles) {
    const lines = Math.ceil(h / COMPRESSIONS[compression].lines);
    return { whole: lines, all: lines };
  }
  const tilesOf = (across: number, down: number) => Math.ceil(across / tiles.width) * Math.ceil(down / tiles.height);
  const steps = (size: number) => (tiles.roundsUp ? Math.ceil(Math.log2(size)) : Math.floor(Math.log2(size))) + 1;
  const at = (size: number, level: number) =>
    Math.max(1, tiles.roundsUp ? Math.ceil(size / 2 ** level) : Math.floor(size / 2 ** level));
  let all = 0;
  if (tiles.levels === 'one') all = tilesOf(w, h);
  else if (tiles.levels === 'mipmap')
    for (let l = 0; l < steps(Math.max(w, h)); l++) all += tilesOf(at(w, l), at(h, l));
  else for (let y = 0; y < steps(h); y++) for (let x = 0; x < steps(w); x++) all += tilesOf(at(w, x), at(h, y));
  return { whole: tilesOf(w, h), all };
}

/** What says how a file is laid out, not what is in it: it is made anew where the part is written again. */
const OWN = ['channels', 'compression', 'dataWindow', 'displayWindow', 'name', 'chunkCount', 'dwaCompressionLevel'];

/** `isTiled`: whether a part that does not say what it is has tiles. */
function readHeader(r: Reader, limits: ReadLimits, isTiled: boolean): PartHeader | null {
  const start = r.at;
  let channels: Channel[] | null = null;
  let compression: Compression | null = null;
  let dataWindow: Box | null = null;
  let displayWindow: Box | null = null;
  let partName = '';
  let tiles: Tiles | undefined;
  let kind = isTiled ? 'tiledimage' : 'scanlineimage';
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
      if (!compression) throw new ExrError(`compression ${code} is not one of OpenEXR’s ten`, at);
    } else if (name === 'dataWindow') dataWindow = r.box();
    else if (name === 'displayWindow') displayWindow = r.box();
    else if (name === 'name' && type === 'string') partName = r.text(size);
    else if (name === 'type' && type === 'string') {
      kind = r.text(size);
      if (kind !== 'scanlineimage' && kind !== 'tiledimage')
        throw new ExrError(`part type ${kind} is not supported`, at);
    } else if (name === 'tiles' && type === 'tiledesc') tiles = readTiles(r);
    else {
      const value = readAttribute(r, type, size);
      if (!value) r.text(size);
      else if (!OWN.includes(name)) attributes[name] = value;
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
  if (kind === 'tiledimage' && !tiles) throw new ExrError('header of a tiled part lacks tiles', start);
  const header = { name: partName, channels, compression, dataWindow, displayWindow, attributes };
  return kind === 'tiledimage' ? { ...header, tiles } : header;
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
      if (version & FLAG_DEEP) throw new ExrError('deep files are not supported', 4);
      const multiPart = (version & FLAG_MULTI_PART) !== 0;
      const parts: PartHeader[] = [];
      const next = () => readHeader(r, limits, (version & FLAG_TILED) !== 0);
      for (let h = next(); h; h = multiPart ? next() : null) {
        parts.push(h);
        if (parts.length > 4096) throw new ExrError('more than 4096 parts', r.at);
      }
      if (parts.length === 0) throw new ExrError('no part', r.at);
      const counts = parts.map(countChunks);
      const total = counts.reduce((n, { all }) => n + all, 0);
      if (r.at + total * 8 > source.size) throw new ExrError('chunk table is cut short', source.size);
      const table = new Reader(await source.read(r.at, total * 8));
      const chunks = counts.map(({ whole, all }) => Array.from({ length: all }, () => table.u64()).slice(0, whole));
      return { parts, multiPart, chunks };
    } catch (error) {
      const short =
        error instanceof ExrError && error.at === loaded && loaded < source.size && loaded < limits.headerBytes;
      if (!short) throw error;
      loaded = Math.min(source.size, loaded * 8);
    }
  }
}
