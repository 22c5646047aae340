import { encode } from 'fast-png';
import { zlibSync } from 'fflate';

/** CRC of PNG [ISO 15948, annex D], bit by bit: what is put in beside the picture is small. */
function crcOf(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (const b of bytes) {
    crc ^= b;
    for (let k = 0; k < 8; k++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
  }
  return ~crc >>> 0;
}

const latin = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0));

/** Where the header of a PNG ends: its signature and one chunk of 13 bytes. */
const AFTER_HEADER = 33;

/** A PNG with an ICC profile in it. */
function withProfile(png: Uint8Array, profile: Uint8Array): Uint8Array {
  const packed = zlibSync(profile);
  // Type, name of the profile, its end, how it is packed (0: zlib), the profile.
  const chunk = Uint8Array.from([...latin('iCCPscreen'), 0, 0, ...packed]);
  const out = new Uint8Array(png.length + chunk.length + 8);
  const view = new DataView(out.buffer);
  out.set(png.subarray(0, AFTER_HEADER));
  view.setUint32(AFTER_HEADER, chunk.length - 4);
  out.set(chunk, AFTER_HEADER + 4);
  view.setUint32(AFTER_HEADER + 4 + chunk.length, crcOf(chunk));
  out.set(png.subarray(AFTER_HEADER), AFTER_HEADER + 8 + chunk.length);
  return out;
}

/** PNG file of bytes or 16-bit words, top row first, channels interleaved. `profile`: an ICC profile that it tells; without one it tells nothing, which is read as sRGB. */
export function encodePng(
  width: number,
  height: number,
  samples: Uint8Array | Uint8ClampedArray | Uint16Array,
  channels: 1 | 2 | 3 | 4 = 4,
  profile: Uint8Array | null = null,
): Uint8Array {
  const png = encode({
    width,
    height,
    channels,
    depth: samples instanceof Uint16Array ? 16 : 8,
    data:
      samples instanceof Uint16Array ? samples : new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength),
  });
  return profile ? withProfile(png, profile) : png;
}
