import { fromBytes, type Inflate, readHeaders, readPart } from '@/core/exr';
import { checkSize, type DecodedPicture, decodeHdr, decodeJpeg, decodePng, whiteOf } from '@/core/image';
import { readTiff } from './read-tiff';

/** Most bytes that zlib makes of one. */
const ZLIB_RATIO = 1032;

async function readExr(bytes: Uint8Array, inflate: Inflate): Promise<DecodedPicture> {
  const source = fromBytes(bytes);
  const file = await readHeaders(source);
  const at = file.parts.findIndex((p) => p.channels.some((c) => /(^|\.)R$/.test(c.name)));
  const number = Math.max(0, at);
  const part = file.parts[number];
  if (!part) throw new Error('it holds no picture');
  const { dataWindow: w } = part;
  const [width, height] = [w.xMax - w.xMin + 1, w.yMax - w.yMin + 1];
  const taken = width * height * part.channels.length * 4;
  checkSize(width, height, taken, bytes.length, 2 * ZLIB_RATIO);
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
  const told = part.attributes.chromaticities;
  return {
    width,
    height,
    channels: used.length,
    values,
    alpha: a ? 'premultiplied' : null,
    ...(told?.type === 'chromaticities' ? { primaries: told.value } : {}),
  };
}

/** Reads a picture file by what its first bytes say it is. Throws in words that name the file and the fault. */
export async function readPicture(path: string, bytes: Uint8Array, inflate: Inflate): Promise<DecodedPicture> {
  const file = path.split('/').at(-1) ?? path;
  const starts = (...head: number[]) => head.every((v, i) => bytes[i] === v);
  try {
    if (bytes.length === 0) throw new Error('the file is empty');
    if (starts(0x89, 0x50, 0x4e, 0x47)) return decodePng(bytes);
    if (starts(0xff, 0xd8)) return decodeJpeg(bytes);
    if (starts(0x76, 0x2f, 0x31, 0x01)) return await readExr(bytes, inflate);
    if (starts(0x23, 0x3f)) {
      const { pixels, ...told } = decodeHdr(bytes);
      return { ...told, channels: 3, values: pixels, alpha: null };
    }
    if (starts(0x49, 0x49, 0x2a, 0) || starts(0x4d, 0x4d, 0, 0x2a)) return readTiff(bytes);
    throw new Error('neither PNG, JPEG, TIFF, Radiance HDR nor OpenEXR');
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message ?? error}`);
  }
}

/** Linear RGB floats of a picture that lights a scene; bytes and words are decoded from sRGB. */
export function environmentValues(p: DecodedPicture, decode: (encoded: number) => number): Float32Array {
  const out = new Float32Array(p.width * p.height * 3);
  const white = whiteOf(p.values);
  const table = white === 1 ? null : Float32Array.from({ length: white + 1 }, (_, i) => decode(i / white));
  for (let i = 0; i < p.width * p.height; i++)
    for (let c = 0; c < 3; c++) {
      const v = p.values[i * p.channels + (p.channels < 3 ? 0 : c)];
      const linear = table ? table[v] : v;
      out[i * 3 + c] = Number.isFinite(linear) && linear > 0 ? linear : 0;
    }
  return out;
}
