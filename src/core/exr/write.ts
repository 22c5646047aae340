import { toHalf } from './half';
import { arrange } from './predictor';
import {
  type Attribute,
  type Box,
  COMPRESSIONS,
  FLAG_LONG_NAMES,
  FLAG_MULTI_PART,
  height,
  MAGIC,
  type Part,
  PIXEL_BYTES,
  PIXEL_TYPES,
  VERSION,
  width,
} from './types';

/** zlib deflate, handed in by the host. */
export type Deflate = (bytes: Uint8Array) => Promise<Uint8Array>;

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

function writeHeader(w: Writer, part: Part, order: number[], multi: boolean): void {
  w.attribute('channels', 'chlist', () => {
    for (const i of order) {
      const c = part.channels[i];
      w.name(c.name);
      w.i32(PIXEL_TYPES.indexOf(c.type));
      w.i32(0);
      w.i32(1);
      w.i32(1);
    }
    w.u8(0);
  });
  const { code, lines } = COMPRESSIONS[part.compression];
  w.attribute('compression', 'compression', () => w.u8(code));
  w.attribute('dataWindow', 'box2i', () => w.box(part.dataWindow));
  w.attribute('displayWindow', 'box2i', () => w.box(part.displayWindow));
  w.attribute('lineOrder', 'lineOrder', () => w.u8(0));
  w.attribute('pixelAspectRatio', 'float', () => w.f32(1));
  w.attribute('screenWindowCenter', 'v2f', () => {
    w.f32(0);
    w.f32(0);
  });
  w.attribute('screenWindowWidth', 'float', () => w.f32(1));
  if (multi) {
    w.attribute('name', 'string', () => w.text(part.name));
    w.attribute('type', 'string', () => w.text('scanlineimage'));
    w.attribute('chunkCount', 'int', () => w.i32(Math.ceil(height(part.dataWindow) / lines)));
  }
  for (const [name, a] of Object.entries(part.attributes)) writeAttribute(w, name, a);
  w.u8(0);
}

/** Raw bytes of scan lines [from, to) of a part, channels in `order`. */
function packLines(part: Part, order: number[], from: number, to: number): Uint8Array {
  const w = width(part.dataWindow);
  const line = part.channels.reduce((n, c) => n + PIXEL_BYTES[c.type] * w, 0);
  const out = new Uint8Array(line * (to - from));
  const view = new DataView(out.buffer);
  let at = 0;
  for (let y = from; y < to; y++) {
    for (const i of order) {
      const src = part.planes[i];
      const { type } = part.channels[i];
      const base = y * w;
      if (type === 'half') for (let x = 0; x < w; x++, at += 2) view.setUint16(at, toHalf(src[base + x]), true);
      else if (type === 'float') for (let x = 0; x < w; x++, at += 4) view.setFloat32(at, src[base + x], true);
      else for (let x = 0; x < w; x++, at += 4) view.setUint32(at, src[base + x], true);
    }
  }
  return out;
}

/** Where one part's chunks lie in the file. */
export interface PartExtent {
  offset: number;
  bytes: number;
}

/**
 * An OpenEXR file of scan-line parts: single-part when there is one, multi-part otherwise. Chunks lie
 * part after part, so that `extents` lets a reader fetch one part alone. Channels are sorted as the
 * format asks. Throws on a plane of the wrong size or a duplicate name.
 */
export async function writeExr(parts: Part[], deflate: Deflate): Promise<{ bytes: Uint8Array; extents: PartExtent[] }> {
  if (parts.length === 0) throw new Error('OpenEXR: a file needs at least one part');
  const multi = parts.length > 1;
  const orders = parts.map((part) => {
    const size = width(part.dataWindow) * height(part.dataWindow);
    if (part.planes.length !== part.channels.length)
      throw new Error(
        `OpenEXR: part ${part.name} has ${part.planes.length} planes for ${part.channels.length} channels`,
      );
    part.planes.forEach((p, i) => {
      if (p.length !== size)
        throw new Error(`OpenEXR: channel ${part.channels[i].name} has ${p.length} values, expected ${size}`);
    });
    if (new Set(part.channels.map((c) => c.name)).size !== part.channels.length)
      throw new Error(`OpenEXR: part ${part.name} repeats a channel name`);
    const order = part.channels.map((_, i) => i);
    return order.sort((a, b) => (part.channels[a].name < part.channels[b].name ? -1 : 1));
  });
  if (new Set(parts.map((p) => p.name)).size !== parts.length) throw new Error('OpenEXR: part names repeat');
  const long = parts.some((p) =>
    [p.name, ...p.channels.map((c) => c.name), ...Object.keys(p.attributes)].some((n) => n.length > 31),
  );
  const w = new Writer();
  w.i32(MAGIC);
  w.i32(VERSION | (multi ? FLAG_MULTI_PART : 0) | (long ? FLAG_LONG_NAMES : 0));
  parts.forEach((part, i) => {
    writeHeader(w, part, orders[i], multi);
  });
  if (multi) w.u8(0);
  const chunks: { part: number; y: number; data: Uint8Array }[] = [];
  for (let p = 0; p < parts.length; p++) {
    const part = parts[p];
    const { lines } = COMPRESSIONS[part.compression];
    const rows = height(part.dataWindow);
    const work: Promise<Uint8Array>[] = [];
    for (let y = 0; y < rows; y += lines) {
      const raw = packLines(part, orders[p], y, Math.min(rows, y + lines));
      work.push(
        part.compression === 'none'
          ? Promise.resolve(raw)
          : deflate(arrange(raw)).then((packed) => (packed.length < raw.length ? packed : raw)),
      );
    }
    const done = await Promise.all(work);
    done.forEach((data, k) => {
      chunks.push({ part: p, y: part.dataWindow.yMin + k * lines, data });
    });
  }
  const head = multi ? 12 : 8;
  const tables = w.length;
  let at = tables + chunks.length * 8;
  const total = chunks.reduce((n, c) => n + head + c.data.length, at);
  const bytes = new Uint8Array(total);
  bytes.set(w.done());
  const view = new DataView(bytes.buffer);
  const extents: PartExtent[] = parts.map(() => ({ offset: 0, bytes: 0 }));
  chunks.forEach((chunk, i) => {
    view.setBigUint64(tables + i * 8, BigInt(at), true);
    const extent = extents[chunk.part];
    if (extent.bytes === 0) extent.offset = at;
    let o = at;
    if (multi) {
      view.setInt32(o, chunk.part, true);
      o += 4;
    }
    view.setInt32(o, chunk.y, true);
    view.setInt32(o + 4, chunk.data.length, true);
    bytes.set(chunk.data, o + 8);
    at += head + chunk.data.length;
    extent.bytes += head + chunk.data.length;
  });
  return { bytes, extents };
}
