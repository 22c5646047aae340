import { encode } from 'fast-png';

/** PNG file of RGBA bytes, top row first. */
export function encodePng(width: number, height: number, rgba: Uint8Array | Uint8ClampedArray): Uint8Array {
  return encode({
    width,
    height,
    channels: 4,
    depth: 8,
    data: new Uint8Array(rgba.buffer, rgba.byteOffset, rgba.byteLength),
  });
}
