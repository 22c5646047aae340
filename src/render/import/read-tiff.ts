import { decode, type TiffIfd } from 'tiff';
import {
  asPictureError,
  type Chromaticities,
  checkSize,
  chromaticitiesOf,
  type DecodedPicture,
  PictureError,
  spaceOfProfile,
} from '@/core/image';
import { readTiles } from './tiff-tiles';

const EXTRA_SAMPLES = 338;
const ASSOCIATED = 1;
const UNASSOCIATED = 2;
/** Most bytes that LZW makes of one: a string of 4095 signs for twelve bits. */
const LZW_RATIO = 2730;
const MOST_TILE = 1 << 14;

/**
 * Marks alpha as unassociated in a copy of the file, so that the library leaves colours as they are: what it makes of
 * associated ones is rounded, and of floats nothing.
 */
function untouched(bytes: Uint8Array): Uint8Array {
  const copy = bytes.slice();
  const view = new DataView(copy.buffer);
  const little = copy[0] === 0x49;
  const at = view.getUint32(4, little);
  const count = at + 2 <= copy.length ? view.getUint16(at, little) : 0;
  for (let i = 0; i < count && at + 14 + i * 12 <= copy.length; i++) {
    const entry = at + 2 + i * 12;
    if (view.getUint16(entry, little) !== EXTRA_SAMPLES) continue;
    if (view.getUint16(entry + 8, little) === ASSOCIATED) view.setUint16(entry + 8, UNASSOCIATED, little);
  }
  return copy;
}

/** Refuses strips or tiles that are not those the picture needs, or lie over each other: unpacking them could take for ever. */
function checkParts(head: TiffIfd, fileBytes: number): void {
  const { width, height, tiled } = head;
  const [w, h] = tiled ? [head.tileWidth, head.tileHeight] : [width, Math.min(head.rowsPerStrip, height)];
  const name = tiled ? 'tiles' : 'strips';
  if (!whole(w) || !whole(h) || w! > MOST_TILE || h! > MOST_TILE)
    throw new PictureError(`${name} of ${w}×${h} pixels are out of range`);
  const due = Math.ceil(width / w!) * Math.ceil(height / h!);
  const offsets = tiled ? head.tileOffsets : head.stripOffsets;
  const counts = tiled ? head.tileByteCounts : head.stripByteCounts;
  if (!offsets || offsets.length !== due || (counts ? counts.length !== due : tiled || head.compression !== 1))
    throw new PictureError(`it has ${offsets?.length ?? 0} ${name} and ${counts?.length ?? 0} sizes; ${due} are due`);
  if (counts && counts.reduce((n, c) => n + c, 0) > fileBytes)
    throw new PictureError(`its ${name} take more than its ${fileBytes} bytes`);
  const padded = (due * w! * h! * head.samplesPerPixel * head.bitsPerSample) / 8;
  if (tiled && padded > fileBytes * LZW_RATIO)
    throw new PictureError(`it promises ${due} tiles of ${w}×${h} pixels, more than its ${fileBytes} bytes can hold`);
}

const whole = (v: unknown) => typeof v === 'number' && Number.isInteger(v) && v > 0;

const [WHITE_POINT, PRIMARIES, PROFILE] = [318, 319, 34675];

/** Primaries that a TIFF tells: its profile's, else those of its tags. */
function primariesOf(head: TiffIfd): { primaries?: Chromaticities } {
  const profile: unknown = head.get(PROFILE);
  if (profile && ArrayBuffer.isView(profile)) {
    const space = spaceOfProfile(new Uint8Array(profile.buffer, profile.byteOffset, profile.byteLength));
    return space ? { primaries: chromaticitiesOf(space) } : {};
  }
  const [told, white]: unknown[] = [head.get(PRIMARIES), head.get(WHITE_POINT)];
  if (!Array.isArray(told) || !Array.isArray(white) || told.length !== 6 || white.length !== 2) return {};
  const primaries = [...told, ...white].map(Number);
  return primaries.every(Number.isFinite) && primaries[1] > 0 && primaries[7] > 0 ? { primaries } : {};
}

/**
 * The first picture of a TIFF: bytes, 16-bit words or floats, its alpha as it says. Throws `PictureError`, before memory is
 * taken for more than the file can hold.
 */
export function readTiff(bytes: Uint8Array): DecodedPicture {
  try {
    const [head] = decode(bytes, { pages: [0], ignoreImageData: true });
    if (!head) throw new PictureError('no picture in it');
    const { width, height, samplesPerPixel, bitsPerSample } = head;
    if (![width, height, samplesPerPixel, bitsPerSample].every(whole)) throw new PictureError('its size is not stated');
    if (![0, 1, 2, 3].includes(head.type)) throw new PictureError('it is neither grey, RGB nor of a palette');
    if (samplesPerPixel > 4) throw new PictureError(`${samplesPerPixel} channels are not supported`);
    checkSize(width, height, (width * height * samplesPerPixel * bitsPerSample) / 8, bytes.length, LZW_RATIO);
    if (head.get('PlanarConfiguration') === 2 && samplesPerPixel > 1)
      throw new PictureError('its channels lie apart (planar), which is not supported');
    checkParts(head, bytes.length);
    const data = head.tiled ? readTiles(bytes, head) : decode(untouched(bytes), { pages: [0] })[0].data;
    const { palette } = head;
    if (palette) {
      const values = new Uint16Array(width * height * 3);
      for (let i = 0; i < width * height; i++) values.set(palette[data[i]] ?? [0, 0, 0], i * 3);
      return { width, height, channels: 3, values, alpha: null, ...primariesOf(head) };
    }
    const alpha = head.alpha ? (head.associatedAlpha ? 'premultiplied' : 'straight') : null;
    const values =
      data instanceof Float64Array
        ? Float32Array.from(data)
        : bitsPerSample === 1
          ? (data as Uint8Array).map((v) => v * 255)
          : (data as Uint8Array | Uint16Array | Float32Array);
    return { width, height, channels: samplesPerPixel, values, alpha, ...primariesOf(head) };
  } catch (error) {
    throw asPictureError(error, 'TIFF');
  }
}
