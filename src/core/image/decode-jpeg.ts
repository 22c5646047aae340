import { decode } from 'jpeg-js';
import { spaceOfProfile } from './icc';
import { chromaticitiesOf } from './primaries';
import { asPictureError, checkSize, type DecodedPicture, PictureError } from './samples';

/** Most pixels that a byte stands for: one bit for each 8×8 block. */
const PIXELS_A_BYTE = 512;
/** Frame headers; the other markers between define tables. */
const isFrame = (marker: number) => marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);

/** Width and height in the frame header. Throws `PictureError` with the place of what does not fit. */
function sizeOf(bytes: Uint8Array): [number, number] {
  for (let at = 2; ; ) {
    while (bytes[at] === 0xff && bytes[at + 1] === 0xff) at++;
    if (at + 9 >= bytes.length) throw new PictureError('it is cut short before its picture');
    if (bytes[at] !== 0xff) throw new PictureError(`byte ${at} begins no segment`);
    if (isFrame(bytes[at + 1])) return [(bytes[at + 7] << 8) | bytes[at + 8], (bytes[at + 5] << 8) | bytes[at + 6]];
    if (bytes[at + 1] === 0xda) throw new PictureError(`its picture at byte ${at} has no size`);
    at += 2 + ((bytes[at + 2] << 8) | bytes[at + 3]);
  }
}

const PROFILE = 'ICC_PROFILE\0';

/** The profile in the segments before the picture, joined by their numbers [ISO 15076-1, annex B.4]; null without any. */
function profileIn(bytes: Uint8Array): Uint8Array | null {
  const pieces: Uint8Array[] = [];
  for (let at = 2; at + 4 < bytes.length && bytes[at] === 0xff && bytes[at + 1] !== 0xda; ) {
    if (bytes[at + 1] === 0xff) {
      at++;
      continue;
    }
    const end = at + 2 + ((bytes[at + 2] << 8) | bytes[at + 3]);
    const from = at + 4 + PROFILE.length;
    const isProfile = bytes[at + 1] === 0xe2 && String.fromCharCode(...bytes.subarray(at + 4, from)) === PROFILE;
    if (isProfile) pieces[bytes[from]] = bytes.subarray(from + 2, end);
    at = end;
  }
  const all = pieces.flatMap((p) => [...p]);
  return all.length > 0 ? Uint8Array.from(all) : null;
}

/**
 * A baseline or progressive JPEG as RGBA bytes, opaque. Throws `PictureError`, before memory is taken for more than
 * the file can hold, and where its data are damaged.
 */
export function decodeJpeg(bytes: Uint8Array): DecodedPicture {
  try {
    const [width, height] = sizeOf(bytes);
    checkSize(width, height, width * height * 4, bytes.length, PIXELS_A_BYTE * 4);
    const picture = decode(bytes, {
      useTArray: true,
      formatAsRGBA: true,
      tolerantDecoding: false,
      maxResolutionInMP: 300,
      maxMemoryUsageInMB: 4096,
    });
    const profile = profileIn(bytes);
    const space = profile && spaceOfProfile(profile);
    return {
      width: picture.width,
      height: picture.height,
      channels: 4,
      values: picture.data,
      alpha: null,
      ...(space ? { primaries: chromaticitiesOf(space) } : {}),
    };
  } catch (error) {
    throw asPictureError(error, 'JPEG');
  }
}
