import { decode as decodePng } from 'fast-png';
import { decode as decodeJpeg } from 'jpeg-js';
import { decode as decodeTiff } from 'tiff';
import { fromBytes, type Inflate, readHeaders, readPart } from '@/core/exr';
import { decodeHdr } from '@/core/image';

/** A picture as it was read: rows from the top, channels interleaved; floats are linear. */
export interface ReadPicture {
  width: number;
  height: number;
  channels: number;
  values: Uint8Array | Float32Array;
  /** How its alpha relates to its colours, where it has one. */
  alpha: 'straight' | 'premultiplied' | null;
}

const MOST_PIXELS = 16384 * 8192;

/** Refuses sizes before anything is made of them. */
function within(width: number, height: number): void {
  if (!(width > 0 && height > 0) || width > 16384 || height > 16384 || width * height > MOST_PIXELS)
    throw new Error(`${width}×${height} pixels are out of range`);
}

/** Size in a PNG's first chunk. */
function pngSize(bytes: Uint8Array): void {
  if (bytes.length < 33) throw new Error('file is cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  within(view.getUint32(16), view.getUint32(20));
}

/** Size in a JPEG's frame header. */
function jpegSize(bytes: Uint8Array): void {
  for (let at = 2; at + 9 < bytes.length; ) {
    if (bytes[at] !== 0xff) break;
    const marker = bytes[at + 1];
    const length = (bytes[at + 2] << 8) | bytes[at + 3];
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) {
      within((bytes[at + 7] << 8) | bytes[at + 8], (bytes[at + 5] << 8) | bytes[at + 6]);
      return;
    }
    at += 2 + length;
  }
  throw new Error('no frame in it, or it is cut short');
}

function readPng(bytes: Uint8Array): ReadPicture {
  pngSize(bytes);
  const { width, height, channels, depth, data, palette } = decodePng(bytes);
  const alpha = channels === 2 || channels === 4 || palette ? ('straight' as const) : null;
  if (palette) {
    const values = new Uint8Array(width * height * 4);
    for (let i = 0; i < width * height; i++) {
      const c = palette[data[i]] ?? [0, 0, 0];
      values.set([c[0], c[1], c[2], c[3] ?? 255], i * 4);
    }
    return { width, height, channels: 4, values, alpha };
  }
  const scale = depth === 16 ? 1 / 257 : 255 / (2 ** Math.min(depth, 8) - 1);
  return { width, height, channels, values: Uint8Array.from(data, (v) => Math.round(v * scale)), alpha };
}

function readTiff(bytes: Uint8Array): ReadPicture {
  const [image] = decodeTiff(bytes.slice(), { pages: [0] });
  if (!image) throw new Error('no picture in it');
  const { width, height, data } = image;
  within(width, height);
  const channels = Math.round(data.length / (width * height));
  if (channels < 1 || channels > 4) throw new Error(`${channels} channels are not supported`);
  const alpha = image.alpha ? (image.associatedAlpha ? 'premultiplied' : 'straight') : null;
  if (data instanceof Float32Array || data instanceof Float64Array)
    return { width, height, channels, values: Float32Array.from(data), alpha };
  const scale = data instanceof Uint16Array ? 1 / 257 : 1;
  return { width, height, channels, values: Uint8Array.from(data, (v) => Math.round(v * scale)), alpha };
}

async function readExr(bytes: Uint8Array, inflate: Inflate): Promise<ReadPicture> {
  const source = fromBytes(bytes);
  const file = await readHeaders(source);
  const at = file.parts.findIndex((p) => p.channels.some((c) => /(^|\.)R$/.test(c.name)));
  const number = Math.max(0, at);
  const part = file.parts[number];
  if (!part) throw new Error('it holds no picture');
  const { dataWindow: w } = part;
  const [width, height] = [w.xMax - w.xMin + 1, w.yMax - w.yMin + 1];
  within(width, height);
  const planes = await readPart(source, file, number, inflate);
  const plane = (channel: string) => {
    const exact = part.channels.findIndex((c) => c.name === channel);
    const i = exact >= 0 ? exact : part.channels.findIndex((c) => c.name.endsWith(`.${channel}`));
    return i < 0 ? null : planes[i];
  };
  const [r, g, b, a] = ['R', 'G', 'B', 'A'].map(plane);
  const first = r ?? plane('Y') ?? planes[0];
  const used = [first, g ?? first, b ?? first, ...(a ? [a] : [])];
  const values = new Float32Array(width * height * used.length);
  used.forEach((p, c) => {
    for (let i = 0; i < width * height; i++) values[i * used.length + c] = p[i];
  });
  return { width, height, channels: used.length, values, alpha: a ? 'premultiplied' : null };
}

/** Reads a picture file by what its first bytes say it is. Throws in words that name the file and the fault. */
export async function readPicture(path: string, bytes: Uint8Array, inflate: Inflate): Promise<ReadPicture> {
  const file = path.split('/').at(-1) ?? path;
  const starts = (...head: number[]) => head.every((v, i) => bytes[i] === v);
  try {
    if (bytes.length === 0) throw new Error('the file is empty');
    if (starts(0x89, 0x50, 0x4e, 0x47)) return readPng(bytes);
    if (starts(0xff, 0xd8)) {
      jpegSize(bytes);
      const { width, height, data } = decodeJpeg(bytes, {
        useTArray: true,
        formatAsRGBA: true,
        maxMemoryUsageInMB: 2048,
      });
      return { width, height, channels: 4, values: data, alpha: null };
    }
    if (starts(0x76, 0x2f, 0x31, 0x01)) return await readExr(bytes, inflate);
    if (starts(0x23, 0x3f)) {
      const { width, height, pixels } = decodeHdr(bytes);
      return { width, height, channels: 3, values: pixels, alpha: null };
    }
    if (starts(0x49, 0x49, 0x2a, 0) || starts(0x4d, 0x4d, 0, 0x2a)) return readTiff(bytes);
    throw new Error('neither PNG, JPEG, TIFF, Radiance HDR nor OpenEXR');
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message ?? error}`);
  }
}

/** Linear RGB floats of a picture that lights a scene; bytes are decoded from sRGB. */
export function environmentValues(p: ReadPicture, decode: (encoded: number) => number): Float32Array {
  const out = new Float32Array(p.width * p.height * 3);
  const bytes = p.values instanceof Uint8Array;
  const table = bytes ? Float32Array.from({ length: 256 }, (_, i) => decode(i / 255)) : null;
  for (let i = 0; i < p.width * p.height; i++)
    for (let c = 0; c < 3; c++) {
      const v = p.values[i * p.channels + (p.channels < 3 ? 0 : c)];
      const linear = table ? table[v] : v;
      out[i * 3 + c] = Number.isFinite(linear) && linear > 0 ? linear : 0;
    }
  return out;
}
