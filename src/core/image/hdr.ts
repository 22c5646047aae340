import type { Chromaticities } from './primaries';
import { PictureError } from './samples';

/**
 * Radiance HDR (RGBE) to linear RGB, top row first, 3 floats a pixel; v = m/256·2^(e−128).
 * Takes flat and run-length-coded files with −Y +X orientation. Throws `PictureError`.
 */
export function decodeHdr(bytes: Uint8Array): {
  width: number;
  height: number;
  pixels: Float32Array;
  primaries?: Chromaticities;
} {
  let at = 0;
  const line = () => {
    let text = '';
    while (at < bytes.length && bytes[at] !== 10) {
      text += String.fromCharCode(bytes[at++]);
      if (text.length > 4096) throw new PictureError('header line is longer than 4096 characters');
    }
    at++;
    return text;
  };
  const magic = line();
  if (!magic.startsWith('#?')) throw new PictureError('not a Radiance HDR file: it must begin with #?');
  let primaries: Chromaticities | undefined;
  for (let text = line(); text !== ''; text = line()) {
    if (at >= bytes.length) throw new PictureError('the header does not end');
    if (text.startsWith('FORMAT=') && text !== 'FORMAT=32-bit_rle_rgbe')
      throw new PictureError(`${text} is not supported`);
    const told = /^PRIMARIES=\s*(.*)$/.exec(text)?.[1].trim().split(/\s+/).map(Number);
    if (told?.length === 8 && told.every(Number.isFinite) && told[1] > 0 && told[7] > 0) primaries = told;
  }
  const size = /^-Y (\d+) \+X (\d+)$/.exec(line());
  if (!size) throw new PictureError('resolution line must read "-Y height +X width"');
  const height = Number(size[1]);
  const width = Number(size[2]);
  if (width < 1 || height < 1 || width * height > 1 << 28)
    throw new PictureError(`size ${width}×${height} is out of range`);
  const pixels = new Float32Array(width * height * 3);
  const row = new Uint8Array(width * 4);
  for (let y = 0; y < height; y++) {
    if (at + 4 > bytes.length) throw new PictureError(`file ends in row ${y} of ${height}`);
    const coded =
      width >= 8 &&
      width < 32768 &&
      bytes[at] === 2 &&
      bytes[at + 1] === 2 &&
      (bytes[at + 2] << 8) + bytes[at + 3] === width;
    if (!coded) {
      if (at + width * 4 > bytes.length) throw new PictureError(`file ends in row ${y} of ${height}`);
      row.set(bytes.subarray(at, at + width * 4));
      at += width * 4;
    } else {
      at += 4;
      for (let c = 0; c < 4; c++) {
        for (let x = 0; x < width; ) {
          if (at + 1 >= bytes.length) throw new PictureError(`file ends in row ${y} of ${height}`);
          const n = bytes[at++];
          const run = n > 128 ? n - 128 : n;
          if (run === 0 || x + run > width)
            throw new PictureError(`row ${y}: run of ${run} at column ${x} exceeds the width`);
          if (n > 128) {
            const v = bytes[at++];
            for (let i = 0; i < run; i++) row[(x + i) * 4 + c] = v;
          } else {
            if (at + run > bytes.length) throw new PictureError(`file ends in row ${y} of ${height}`);
            for (let i = 0; i < run; i++) row[(x + i) * 4 + c] = bytes[at++];
          }
          x += run;
        }
      }
    }
    for (let x = 0; x < width; x++) {
      const e = row[x * 4 + 3];
      const f = e === 0 ? 0 : 2 ** (e - 136);
      const o = (y * width + x) * 3;
      pixels[o] = row[x * 4] * f;
      pixels[o + 1] = row[x * 4 + 1] * f;
      pixels[o + 2] = row[x * 4 + 2] * f;
    }
  }
  return primaries ? { width, height, pixels, primaries } : { width, height, pixels };
}
