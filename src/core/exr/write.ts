import { chunksAtOnce, packChunk } from './codecs';
import { blockOf } from './codecs/block';
import type { Deflate } from './codecs/codec';
import { halfLines, halfPlane } from './codecs/numbers';
import {
  type Attribute,
  type Box,
  COMPRESSIONS,
  FLAG_LONG_NAMES,
  FLAG_MULTI_PART,
  FLAG_TILED,
  height,
  LEVEL_MODES,
  MAGIC,
  type Part,
  type PartHeader,
  PIXEL_BYTES,
  PIXEL_TYPES,
  VERSION,
  width,
} from './types';

class Writer {
  private bytes = new Uint8Array(4096);
  private view = new DataView(this.bytes.buffer);
  length = 0;

  private room(n: number): number {
    const at = this.length;
    this.length += n;
    if (this.length > this.bytes.length) {
      const bigger = new Uint8Array(Math.max(this.length, this.bytes.length * 2));
      bigger.set(this.bytes);
      this.bytes = bigger;
      this.view = new DataView(bigger.buffer);
    }
    return at;
  }
  u8(v: number) {
    const at = this.room(1);
    this.view.setUint8(at, v);
  }
  i32(v: number) {
    const at = this.room(4);
    this.view.setInt32(at, v, true);
  }
  f32(v: number) {
    const at = this.room(4);
    this.view.setFloat32(at, v, true);
  }
  f64(v: number) {
    const at = this.room(8);
    this.view.setFloat64(at, v, true);
  }
  text(s: string) {
    const encoded = new TextEncoder().encode(s);
    const at = this.room(encoded.length);
    this.bytes.set(encoded, at);
    return encoded.length;
  }
  name(s: string) {
    this.text(s);
    this.u8(0);
  }
  attribute(name: string, type: string, fill: () => void) {
    this.name(name);
    this.name(type);
    const at = this.room(4);
    const from = this.length;
    fill();
    this.view.setInt32(at, this.length - from, true);
  }
  box(b: Box) {
    for (const v of [b.xMin, b.yMin, b.xMax, b.yMax]) this.i32(v);
  }
  done(): Uint8Array {
    return this.bytes.subarray(0, this.length);
  }
}

function writeAttribute(w: Writer, name: string, a: Attribute): void {
  w.attribute(name, a.type, () => {
    if (a.type === 'string') w.text(a.value);
    else if (a.type === 'int') w.i32(a.value);
    else if (a.type === 'float') w.f32(a.value);
    else if (a.type === 'double') w.f64(a.value);
    else if (a.type === 'rational') for (const v of a.value) w.i32(v);
    else for (const v of a.value) w.f32(v);
  });
}

/** Numbers that every header has, 1 where a part says nothing of them. */
const RATIOS = ['pixelAspectRatio', 'screenWindowWidth'];
function ratioOf({ attributes }: PartHeader, name: string): number {
  const a = attributes[name];
  return a?.type === 'float' ? a.value : 1;
}

function writeHeader(w: Writer, part: PartHeader, order: number[], multi: boolean): void {
  w.attribute('channels', 'chlist', () => {
    for (const i of order) {
      const c = part.channels[i];
      w.name(c.name);
      w.i32(PIXEL_TYPES.indexOf(c.type));
      // The byte of the eye's scale, and three that are kept.
      w.i32(c.isPerceptual ? 1 : 0);
      w.i32(1);
      w.i32(1);
    }
    w.u8(0);
  });
  w.attribute('compression', 'compression', () => w.u8(COMPRESSIONS[part.compression].code));
  w.attribute('dataWindow', 'box2i', () => w.box(part.dataWindow));
  w.attribute('displayWindow', 'box2i', () => w.box(part.displayWindow));
  w.attribute('lineOrder', 'lineOrder', () => w.u8(0));
  w.attribute('pixelAspectRatio', 'float', () => w.f32(ratioOf(part, 'pixelAspectRatio')));
  w.attribute('screenWindowCenter', 'v2f', () => {
    w.f32(0);
    w.f32(0);
  });
  w.attribute('screenWindowWidth', 'float', () => w.f32(ratioOf(part, 'screenWindowWidth')));
  const { tiles } = part;
  if (tiles)
    w.attribute('tiles', 'tiledesc', () => {
      w.i32(tiles.width);
      w.i32(tiles.height);
      w.u8(LEVEL_MODES.indexOf(tiles.levels));
    });
  if (multi) {
    w.attribute('name', 'string', () => w.text(part.name));
    w.attribute('type', 'string', () => w.text(tiles ? 'tiledimage' : 'scanlineimage'));
    w.attribute('chunkCount', 'int', () => w.i32(placesOf(part).length));
  }
  for (const [name, a] of Object.entries(part.attributes)) if (!RATIOS.includes(name)) writeAttribute(w, name, a);
  w.u8(0);
}

/** The pixels of a chunk, from their corner, and where it says that it lies. */
interface Place {
  x0: number;
  y0: number;
  across: number;
  rows: number;
  says: readonly number[];
}

/** A part's chunks in the order of the file: lines from the top, or tiles row by row. Throws on tiles with smaller pictures beside them. */
function placesOf({ dataWindow, compression, tiles }: PartHeader): Place[] {
  const [w, h] = [width(dataWindow), height(dataWindow)];
  if (tiles && tiles.levels !== 'one') throw new Error('OpenEXR: tiles are written without smaller pictures');
  const [across, down] = tiles ? [tiles.width, tiles.height] : [w, COMPRESSIONS[compression].lines];
  const places: Place[] = [];
  for (let y0 = 0; y0 < h; y0 += down)
    for (let x0 = 0; x0 < w; x0 += across)
      places.push({
        x0,
        y0,
        across: Math.min(across, w - x0),
        rows: Math.min(down, h - y0),
        says: tiles ? [x0 / across, y0 / down, 0, 0] : [dataWindow.yMin + y0],
      });
  return places;
}

const bytesAt = (part: PartHeader, { across, rows }: Place): number =>
  part.channels.reduce((n, c) => n + PIXEL_BYTES[c.type], 0) * across * rows;

/** Raw bytes of a chunk of a part, channels in `order`. */
function rawOf(part: Part, order: number[], place: Place): Uint8Array {
  const { x0, y0, across, rows } = place;
  const w = width(part.dataWindow);
  const out = new Uint8Array(bytesAt(part, place));
  const words = new Uint16Array(out.buffer);
  const view = new DataView(out.buffer);
  const isAllHalf = part.channels.every((c) => c.type === 'half');
  let at = 0;
  for (let y = y0; y < y0 + rows; y++) {
    if (isAllHalf) {
      const base = y * w + x0;
      const count = across * order.length;
      const lines = order.map((i) => (part.planes[i] as Float32Array).subarray(base, base + across));
      halfLines(lines, words.subarray(at / 2, at / 2 + count));
      at += count * 2;
      continue;
    }
    for (const i of order) {
      const { type } = part.channels[i];
      const base = y * w + x0;
      const line = part.planes[i].subarray(base, base + across);
      if (type === 'half') {
        const own = words.subarray(at / 2, at / 2 + across);
        halfPlane(line as Float32Array, own);
        at += across * 2;
      } else if (type === 'float') for (let x = 0; x < across; x++, at += 4) view.setFloat32(at, line[x], true);
      else for (let x = 0; x < across; x++, at += 4) view.setUint32(at, line[x], true);
    }
  }
  return out;
}

/** Where one part's chunks lie in the file. */
export interface PartExtent {
  offset: number;
  bytes: number;
}

/** A part whose planes are made when its turn comes, and let go after it. */
export interface LatePart extends PartHeader {
  planes: () => Part['planes'] | Promise<Part['planes']>;
}

/** Order of a part's channels in the file, by name. Throws on a duplicate name. */
function orderOf(part: PartHeader): number[] {
  if (new Set(part.channels.map((c) => c.name)).size !== part.channels.length)
    throw new Error(`OpenEXR: part ${part.name} repeats a channel name`);
  return part.channels.map((_, i) => i).sort((a, b) => (part.channels[a].name < part.channels[b].name ? -1 : 1));
}

/** The planes of a part. Throws on one of the wrong size. */
async function planesOf(part: LatePart): Promise<Part> {
  const planes = await part.planes();
  const size = width(part.dataWindow) * height(part.dataWindow);
  if (planes.length !== part.channels.length)
    throw new Error(`OpenEXR: part ${part.name} has ${planes.length} planes for ${part.channels.length} channels`);
  planes.forEach((p, i) => {
    if (p.length !== size)
      throw new Error(`OpenEXR: channel ${part.channels[i].name} has ${p.length} values, expected ${size}`);
  });
  return { ...part, planes };
}

/** Packed chunks of a part. */
async function packPart(part: Part, order: number[], deflate: Deflate): Promise<Uint8Array[]> {
  const channels = order.map((c) => part.channels[c]);
  const places = placesOf(part);
  const chunks: Uint8Array[] = [];
  const left = places.entries();
  const packOn = async () => {
    for (const [k, place] of left) {
      const block = blockOf(channels, place.across, place.rows);
      chunks[k] = await packChunk(part.compression, rawOf(part, order, place), block, deflate);
    }
  };
  await Promise.all(Array.from({ length: chunksAtOnce(part.compression, deflate) }, packOn));
  return chunks;
}

/** Bytes from which on what has been written is handed on. */
const PIECE_BYTES = 1 << 20;

/** Sizes of a part's chunks where they do not depend on its pixels; null where they do. */
const knownSizes = (part: PartHeader): number[] | null =>
  part.compression === 'none' ? placesOf(part).map((place) => bytesAt(part, place)) : null;

/** An OpenEXR file as it is written: how large it is, where its parts lie, and its bytes in order. */
export interface ExrStream {
  size: number;
  extents: PartExtent[];
  /** To be read once. */
  bytes: AsyncGenerator<Uint8Array>;
}

/**
 * An OpenEXR file of parts in lines or in tiles, part by part: single-part when there is one, multi-part otherwise. Parts without
 * compression are made when their turn comes; of the others the packed chunks are kept, since a file begins with where they lie.
 * Channels are sorted as the format asks. Throws on a plane of the wrong size or a duplicate name.
 */
export async function streamExr(parts: readonly LatePart[], deflate: Deflate): Promise<ExrStream> {
  if (parts.length === 0) throw new Error('OpenEXR: a file needs at least one part');
  const multi = parts.length > 1;
  const orders = parts.map(orderOf);
  if (new Set(parts.map((p) => p.name)).size !== parts.length) throw new Error('OpenEXR: part names repeat');
  const long = parts.some((p) =>
    [p.name, ...p.channels.map((c) => c.name), ...Object.keys(p.attributes)].some((n) => n.length > 31),
  );
  const w = new Writer();
  w.i32(MAGIC);
  const tiled = !multi && parts[0].tiles ? FLAG_TILED : 0;
  w.i32(VERSION | tiled | (multi ? FLAG_MULTI_PART : 0) | (long ? FLAG_LONG_NAMES : 0));
  parts.forEach((part, i) => {
    writeHeader(w, part, orders[i], multi);
  });
  if (multi) w.u8(0);
  const packed: (Uint8Array[] | null)[] = [];
  const sizes: number[][] = [];
  for (const [p, part] of parts.entries()) {
    const known = knownSizes(part);
    const chunks = known ? null : await packPart(await planesOf(part), orders[p], deflate);
    packed.push(chunks);
    sizes.push(known ?? chunks!.map((c) => c.length));
  }
  // The part where there are several, where it lies, and its size.
  const heads = parts.map((p) => (multi ? 4 : 0) + (p.tiles ? 16 : 4) + 4);
  const count = sizes.reduce((n, s) => n + s.length, 0);
  const start = new Uint8Array(w.length + count * 8);
  start.set(w.done());
  const table = new DataView(start.buffer, w.length);
  const extents: PartExtent[] = [];
  let at = start.length;
  let entry = 0;
  for (const [p, own] of sizes.entries()) {
    const offset = at;
    for (const size of own) {
      table.setBigUint64(entry++ * 8, BigInt(at), true);
      at += heads[p] + size;
    }
    extents.push({ offset, bytes: at - offset });
  }
  async function* bytes(): AsyncGenerator<Uint8Array> {
    yield start;
    for (const [p, part] of parts.entries()) {
      const ready = packed[p];
      const whole = ready ? null : await planesOf(part);
      const places = placesOf(part);
      const head = heads[p];
      const own = sizes[p];
      for (let k = 0; k < own.length; ) {
        // As many chunks at once as make a piece worth handing on.
        let [to, length] = [k, 0];
        while (to < own.length && length < PIECE_BYTES) length += head + own[to++];
        const out = new Uint8Array(length);
        const view = new DataView(out.buffer);
        for (let o = 0; k < to; o += head + own[k++]) {
          const data = ready ? ready[k] : rawOf(whole!, orders[p], places[k]);
          const says = [...(multi ? [p] : []), ...places[k].says, data.length];
          says.forEach((n, i) => {
            view.setInt32(o + i * 4, n, true);
          });
          out.set(data, o + head);
        }
        yield out;
      }
      packed[p] = null;
    }
  }
  return { size: at, extents, bytes: bytes() };
}

/** The same as one array of bytes, of planes that are there. */
export async function writeExr(
  parts: readonly Part[],
  deflate: Deflate,
): Promise<{ bytes: Uint8Array; extents: PartExtent[] }> {
  const stream = await streamExr(
    parts.map((part) => ({ ...part, planes: () => part.planes })),
    deflate,
  );
  const bytes = new Uint8Array(stream.size);
  let at = 0;
  for await (const piece of stream.bytes) {
    bytes.set(piece, at);
    at += piece.length;
  }
  return { bytes, extents: stream.extents };
}
