import { encode } from 'fast-png';

/** PNG file of bytes or 16-bit words, top row first, channels interleaved. */
export function encodePng(
  width: number,
  height: number,
  samples: Uint8Array | Uint8ClampedArray | Uint16Array,
  channels: 1 | 2 | 3 | 4 = 4,
): Uint8Array {
  return encode({
    width,
    height,
    channels,
    depth: samples instanceof Uint16Array ? 16 : 8,
    data:
      samples instanceof Uint16Array ? samples : new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength),
  });
}
