import { type DecodedPng, decode } from 'fast-png';
import { Unzlib } from 'fflate';
import { spaceOfProfile } from './icc';
import { type Chromaticities, chromaticitiesOf, type Space } from './primaries';
import { asPictureError, checkSize, type DecodedPicture, PictureError } from './samples';

/** Most bytes that zlib makes of one. */
const ZLIB_RATIO = 1032;
/** Bytes beyond what the picture needs that its data may inflate to, unseen. */
const SLACK_BYTES = 1 << 28;
const TELLERS = ['cICP', 'sRGB', 'cHRM'];
const CHANNELS: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };

/** Chunks that tell the primaries of a PNG, by their types. */
type Tellers = Map<string, Uint8Array>;

/** Codes of primaries [ITU-T H.273]. */
const CODED: Record<number, Space> = { 1: 'Rec.709', 9: 'Rec.2020', 12: 'Display P3' };

/** Primaries that a PNG tells: the code, else the profile, else that it is sRGB, else the chromaticities, as the standard ranks them. */
function primariesOf(told: Tellers, profile: Uint8Array | undefined): Chromaticities | undefined {
  const code = told.get('cICP');
  const space =
    (code && CODED[code[0]]) || (profile && spaceOfProfile(profile)) || (told.has('sRGB') ? 'Rec.709' : null);
  if (space) return chromaticitiesOf(space);
  const own = told.get('cHRM');
  if (own?.length !== 32 || profile) return undefined;
  const view = new DataView(own.buffer, own.byteOffset, 32);
  const [wx, wy, ...rest] = Array.from({ length: 8 }, (_, i) => view.getUint32(i * 4) / 100000);
  return [...rest, wx, wy].every((v) => v >= 0 && v < 2) && rest[1] > 0 && wy > 0 ? [...rest, wx, wy] : undefined;
}

/** Parts of a PNG that hold its data, and chunks that tell its primaries. Throws `PictureError` where a chunk is cut short, by name and place. */
function dataOf(bytes: Uint8Array): { view: DataView; data: Uint8Array[]; told: Tellers } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const data: Uint8Array[] = [];
  const told: Tellers = new Map();
  for (let at = 8; ; ) {
    if (at + 12 > bytes.length) throw new PictureError(`it is cut short at byte ${bytes.length}: it has no end`);
    const length = view.getUint32(at);
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    if (at === 8 && (type !== 'IHDR' || length !== 13)) throw new PictureError('it does not begin with its size');
    if (at + 12 + length > bytes.length)
      throw new PictureError(`chunk ${JSON.stringify(type)} at byte ${at} runs past the end`);
    if (type === 'IDAT') data.push(bytes.subarray(at + 8, at + 8 + length));
    if (TELLERS.includes(type)) told.set(type, bytes.subarray(at + 8, at + 8 + length));
    if (type === 'IEND') return { view, data, told };
    at += 12 + length;
  }
}

/** Refuses data that inflates to far more than the picture needs, without keeping any of it. */
function checkInflated(data: readonly Uint8Array[], needed: number): void {
  const packed = data.reduce((n, d) => n + d.length, 0);
  if (packed * ZLIB_RATIO <= needed + SLACK_BYTES) return;
  let size = 0;
  const unzlib = new Unzlib((chunk) => {
    size += chunk.length;
    if (size > needed + SLACK_BYTES)
      throw new PictureError(`its data inflate to more than the ${needed} bytes it needs`);
  });
  const step = 1 << 16;
  for (const d of data) for (let at = 0; at < d.length; at += step) unzlib.push(d.subarray(at, at + step));
}

/** Samples of fewer than eight bits, each as a byte. */
function spread({ width, height, channels, depth, data }: DecodedPng): Uint8Array {
  const perRow = Math.ceil((width * channels * depth) / 8);
  const out = new Uint8Array(width * height * channels);
  const mask = 2 ** depth - 1;
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width * channels; x++)
      out[o++] = (data[y * perRow + ((x * depth) >> 3)] >> (8 - depth - ((x * depth) & 7))) & mask;
  return out;
}

function withPalette(indices: ArrayLike<number>, palette: number[][], width: number, height: number): DecodedPicture {
  const values = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const c = palette[indices[i]];
    if (!c) throw new PictureError(`pixel ${i % width}, ${Math.floor(i / width)} has a colour beyond its palette`);
    values[i * 4] = c[0];
    values[i * 4 + 1] = c[1];
    values[i * 4 + 2] = c[2];
    values[i * 4 + 3] = c[3] ?? 255;
  }
  return { width, height, channels: 4, values, alpha: 'straight' };
}

/** Grey or RGB with one colour that stands for nothing, as grey or RGB with alpha. */
function withHole(p: DecodedPicture, hole: ArrayLike<number>, white: number): DecodedPicture {
  const channels = p.channels + 1;
  const values =
    p.values instanceof Uint16Array
      ? new Uint16Array(p.width * p.height * channels)
      : new Uint8Array(p.width * p.height * channels);
  for (let i = 0; i < p.width * p.height; i++) {
    let same = true;
    for (let c = 0; c < p.channels; c++) {
      values[i * channels + c] = p.values[i * p.channels + c];
      same &&= p.values[i * p.channels + c] === hole[c];
    }
    values[i * channels + p.channels] = same ? 0 : white;
  }
  return { ...p, channels, values, alpha: 'straight' };
}

function samplesOf(png: DecodedPng, width: number, height: number): DecodedPicture {
  const whole = Math.ceil((width * png.channels * png.depth) / 8) * height;
  if (png.data.byteLength < whole) throw new PictureError('its data end before the picture does');
  if (png.depth < 8) {
    const small = spread(png);
    if (png.palette) return withPalette(small, png.palette, width, height);
    const scale = 255 / (2 ** png.depth - 1);
    const p = { width, height, channels: png.channels, values: small, alpha: null };
    const held = png.transparency ? withHole(p, png.transparency, 2 ** png.depth - 1) : p;
    return { ...held, values: (held.values as Uint8Array).map((v) => Math.round(v * scale)) };
  }
  if (png.palette) return withPalette(png.data, png.palette, width, height);
  const values =
    png.data instanceof Uint16Array
      ? png.data
      : new Uint8Array(png.data.buffer, png.data.byteOffset, png.data.byteLength);
  const alpha = png.channels === 2 || png.channels === 4 ? ('straight' as const) : null;
  const picture = { width, height, channels: png.channels, values, alpha };
  return png.transparency && !alpha ? withHole(picture, png.transparency, png.depth === 16 ? 65535 : 255) : picture;
}

/**
 * A PNG of any depth: 16 bits as words, all else as bytes; palettes as RGBA; alpha is straight, as the standard has it.
 * Throws `PictureError`, before memory is taken for more than the file can hold.
 */
export function decodePng(bytes: Uint8Array): DecodedPicture {
  try {
    const { view, data, told } = dataOf(bytes);
    const [width, height, bits, colour] = [view.getUint32(16), view.getUint32(20), bytes[24], bytes[25]];
    const channels = CHANNELS[colour];
    if (channels === undefined) throw new PictureError(`colour type ${colour} is none of PNG's`);
    const needed = height * (Math.ceil((width * channels * bits) / 8) + 1);
    checkSize(width, height, needed, bytes.length, ZLIB_RATIO);
    checkInflated(data, needed);
    const png = decode(bytes, { checkCrc: true });
    const picture = samplesOf(png, width, height);
    const primaries = primariesOf(told, png.iccEmbeddedProfile?.profile);
    return primaries ? { ...picture, primaries } : picture;
  } catch (error) {
    throw asPictureError(error, 'PNG');
  }
}
