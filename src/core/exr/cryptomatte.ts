/** Names and numbers of the open Cryptomatte specification, version 1.2. */

/** MurmurHash3 (x86, 32 bit) of UTF-8 bytes [Appleby]. */
export function murmur3(text: string, seed = 0): number {
  const data = new TextEncoder().encode(text);
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  let h = seed >>> 0;
  const mix = (k: number) => {
    const a = Math.imul(k, 0xcc9e2d51);
    return Math.imul((a << 15) | (a >>> 17), 0x1b873593);
  };
  const blocks = data.length >> 2;
  for (let i = 0; i < blocks; i++) {
    h ^= mix(view.getUint32(i * 4, true));
    h = (Math.imul((h << 13) | (h >>> 19), 5) + 0xe6546b64) >>> 0;
  }
  let tail = 0;
  for (let i = data.length - 1; i >= blocks * 4; i--) tail = (tail << 8) | data[i];
  if (data.length & 3) h ^= mix(tail);
  h ^= data.length;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** The hash with exponents 0 and 255 avoided by flipping bit 23, as the specification's uint32_to_float32 asks. */
export function maskBits(name: string): number {
  const h = murmur3(name);
  const exponent = (h >>> 23) & 255;
  return exponent === 0 || exponent === 255 ? (h ^ (1 << 23)) >>> 0 : h;
}

/** The float whose bits are an object's identifier. */
export function maskId(name: string): number {
  const f = new Float32Array(1);
  new Uint32Array(f.buffer)[0] = maskBits(name);
  return f[0];
}

/** Eight lower-case hex digits of a name's identifier, as manifests write it. */
export function maskHex(name: string): string {
  return maskBits(name).toString(16).padStart(8, '0');
}

/** Key of a mask's attributes in a header. */
export const maskKey = (mask: string): string =>
  `cryptomatte/${murmur3(mask).toString(16).padStart(8, '0').slice(0, 7)}`;
