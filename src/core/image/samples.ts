import type { Chromaticities } from './primaries';

/** Samples of a picture: bytes or 16-bit words encoded as sRGB where they are colours, or scene-linear floats. */
export type Samples = Uint8Array | Uint16Array | Float32Array;

/** What 1 is among such samples. */
export const whiteOf = (values: Samples) =>
  values instanceof Uint8Array ? 255 : values instanceof Uint16Array ? 65535 : 1;

/** A picture as its file has it: rows from the top, channels interleaved. */
export interface DecodedPicture {
  width: number;
  height: number;
  /** 1 grey, 2 grey and alpha, 3 RGB, 4 RGB and alpha. */
  channels: number;
  values: Samples;
  /** How its alpha relates to its colours; null where it has none. */
  alpha: 'straight' | 'premultiplied' | null;
  /** Primaries and white that its file tells; absent where it tells none, or a profile that is not known here. */
  primaries?: Chromaticities;
}

/** A fault in a picture file, for people: what and where. */
export class PictureError extends Error {}

const MOST_SIDE = 16384;
/** Most bytes that a picture may take unpacked. */
const MOST_BYTES = 2 ** 30;

/**
 * Refuses a picture before memory is taken for it: `bytes` unpacked, of `fileBytes` packed at most `ratio` to one.
 * Throws `PictureError`.
 */
export function checkSize(width: number, height: number, bytes: number, fileBytes: number, ratio: number): void {
  if (!(width > 0 && height > 0 && width <= MOST_SIDE && height <= MOST_SIDE))
    throw new PictureError(`${width}×${height} pixels are out of range (1 to ${MOST_SIDE} a side)`);
  if (bytes > MOST_BYTES)
    throw new PictureError(`${width}×${height} pixels take ${Math.ceil(bytes / 2 ** 20)} MiB; 1024 are the most`);
  if (bytes > fileBytes * ratio)
    throw new PictureError(`it promises ${width}×${height} pixels, more than its ${fileBytes} bytes can hold`);
}

/** What a library says of a damaged file, in words for people. */
export function asPictureError(error: unknown, format: string): PictureError {
  if (error instanceof PictureError) return error;
  const words = error instanceof Error ? error.message : String(error);
  // What an engine says of its own workings helps nobody.
  const isEngine = !(error instanceof Error) || error.constructor !== Error || words === '';
  return new PictureError(`the ${format} is damaged${isEngine ? ': its parts do not fit together' : ` (${words})`}`);
}
