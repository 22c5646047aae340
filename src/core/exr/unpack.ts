import { halfTable } from './half';
import type { Channel } from './types';

/** Bits of the float for every half. */
const halves = (): Int32Array => new Int32Array(halfTable().buffer);

/**
 * Takes the values of `rows` lines from line `y0` apart by channel, into planes `w` wide. `apart`: the low
 * bytes of the chunk's 16-bit words stand before the high bytes, as the predictor leaves them.
 */
export function unpackLines(
  raw: Uint8Array,
  apart: boolean,
  channels: Channel[],
  planes: (Float32Array | Uint32Array)[],
  y0: number,
  rows: number,
  w: number,
): void {
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  const high = raw.length >> 1;
  const bits = planes.map((p) => new Int32Array(p.buffer, p.byteOffset, p.length));
  let words = 0;
  for (let y = y0; y < y0 + rows; y++) {
    for (let c = 0; c < planes.length; c++) {
      const half = channels[c].type === 'half';
      if (half && apart) halvesApart(view, words, high, bits[c], y * w, w);
      else if (half) halvesTogether(view, words * 2, bits[c], y * w, w);
      else if (apart) wordsApart(view, words, high, bits[c], y * w, w);
      else wordsTogether(view, words * 2, bits[c], y * w, w);
      words += half ? w : 2 * w;
    }
  }
}

/** Four at a time: reading bytes one by one takes twice as long. */
function halvesApart(view: DataView, at: number, high: number, out: Int32Array, from: number, count: number): void {
  const t = halves();
  const end = from + count;
  let x = from;
  let k = at;
  for (; x + 4 <= end; x += 4, k += 4) {
    const l = view.getInt32(k, true);
    const h = view.getInt32(k + high, true);
    out[x] = t[(l & 255) | ((h & 255) << 8)];
    out[x + 1] = t[((l >> 8) & 255) | (h & 0xff00)];
    out[x + 2] = t[((l >> 16) & 255) | ((h >> 8) & 0xff00)];
    out[x + 3] = t[(l >>> 24) | ((h >>> 16) & 0xff00)];
  }
  for (; x < end; x++, k++) out[x] = t[view.getUint8(k) | (view.getUint8(k + high) << 8)];
}

function halvesTogether(view: DataView, at: number, out: Int32Array, from: number, count: number): void {
  const t = halves();
  for (let x = from, k = at; x < from + count; x++, k += 2) out[x] = t[view.getUint16(k, true)];
}

function wordsApart(view: DataView, at: number, high: number, out: Int32Array, from: number, count: number): void {
  for (let x = from, k = at; x < from + count; x++, k += 2) {
    const l = view.getUint16(k, true);
    const h = view.getUint16(k + high, true);
    out[x] = (l & 255) | ((h & 255) << 8) | ((l >> 8) << 16) | ((h >> 8) << 24);
  }
}

function wordsTogether(view: DataView, at: number, out: Int32Array, from: number, count: number): void {
  for (let x = from, k = at; x < from + count; x++, k += 4) out[x] = view.getInt32(k, true);
}
