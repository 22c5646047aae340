import { encode } from 'fast-png';

/** PNG file of bytes, top row first, channels interleaved. */
export function encodePng(
  width: number,
  height: number,
  bytes: Uint8Array | Uint8ClampedArray,
  channels: 1 | 2 | 3 | 4 = 4,
): Uint8Array {
  return encode({
    width,
    height,
    channels,
    depth: 8,
    data: new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength),
  });
}
