import { zlibSync } from 'fflate';

/** Types of fields of TIFF 6.0, and the bytes that one value takes. */
const TYPES = { ascii: [2, 1], short: [3, 2], long: [4, 4], bytes: [7, 1] } as const;

/** Rows that are packed together: a strip of about 64 kB as the standard advises would pack no better. */
const ROWS_A_STRIP = 32;

/** Words of a strip, each as what it differs by from the pixel to its left (predictor 2), low byte first. */
function differences(words: Uint16Array, width: number, channels: number): Uint8Array {
  const out = new Uint8Array(words.length * 2);
  const view = new DataView(out.buffer);
  const line = width * channels;
  for (let i = 0; i < words.length; i++) {
    const left = i % line >= channels ? words[i - channels] : 0;
    view.setUint16(i * 2, (words[i] - left) & 0xffff, true);
  }
  return out;
}

/**
 * TIFF file of 16-bit words, RGB, top row first, packed by Deflate over differences [TIFF 6.0; its supplements 1 and 2, 1995 and 2002]. `profile`: an ICC profile that it
 * tells; null for none, which is read as sRGB.
 */
export function encodeTiff(
  width: number,
  height: number,
  words: Uint16Array,
  profile: Uint8Array | null = null,
): Uint8Array {
  const channels = 3;
  const strips: Uint8Array[] = [];
  for (let y = 0; y < height; y += ROWS_A_STRIP) {
    const rows = words.subarray(y * width * channels, Math.min(height, y + ROWS_A_STRIP) * width * channels);
    strips.push(zlibSync(differences(rows, width, channels)));
  }
  const starts: number[] = [];
  let end = 8;
  for (const s of strips) {
    starts.push(end);
    end += s.length + (s.length & 1);
  }
  const fields: [number, keyof typeof TYPES, ArrayLike<number>][] = [
    [256, 'long', [width]],
    [257, 'long', [height]],
    [258, 'short', [16, 16, 16]],
    // Packing: Deflate; colours: RGB.
    [259, 'short', [8]],
    [262, 'short', [2]],
    [273, 'long', starts],
    [277, 'short', [channels]],
    [278, 'long', [ROWS_A_STRIP]],
    [279, 'long', strips.map((s) => s.length)],
    [284, 'short', [1]],
    [305, 'ascii', Uint8Array.from('Zealous Lantern\0', (c) => c.charCodeAt(0))],
    [317, 'short', [2]],
    ...(profile ? [[34675, 'bytes', profile] as [number, 'bytes', Uint8Array]] : []),
  ];
  const sizeOf = ([, type, values]: (typeof fields)[number]) => values.length * TYPES[type][1];
  const beside = fields.map(sizeOf).map((n) => (n > 4 ? n + (n & 1) : 0));
  const out = new Uint8Array(end + 2 + fields.length * 12 + 4 + beside.reduce((a, b) => a + b, 0));
  const view = new DataView(out.buffer);
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, end, true);
  strips.forEach((s, i) => {
    out.set(s, starts[i]);
  });
  view.setUint16(end, fields.length, true);
  let free = end + 2 + fields.length * 12 + 4;
  fields.forEach((field, i) => {
    const [tag, type, values] = field;
    const at = end + 2 + i * 12;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, TYPES[type][0], true);
    view.setUint32(at + 4, values.length, true);
    const isBeside = beside[i] > 0;
    if (isBeside) view.setUint32(at + 8, free, true);
    const to = isBeside ? free : at + 8;
    const bytes = TYPES[type][1];
    for (let k = 0; k < values.length; k++) {
      if (bytes === 1) out[to + k] = values[k];
      else if (bytes === 2) view.setUint16(to + k * 2, values[k], true);
      else view.setUint32(to + k * 4, values[k], true);
    }
    free += beside[i];
  });
  return out;
}
