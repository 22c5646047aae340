import { halfTable } from './half';
import type { Channel } from './types';

/** Takes the values of `rows` lines from line `y0` apart by channel, into planes `w` wide. */
export function unpackLines(
  raw: Uint8Array,
  channels: Channel[],
  planes: (Float32Array | Uint32Array)[],
  y0: number,
  rows: number,
  w: number,
): void {
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  const halves = new Int32Array(halfTable().buffer);
  const bits = planes.map((p) => new Int32Array(p.buffer, p.byteOffset, p.length));
  let at = 0;
  for (let y = y0; y < y0 + rows; y++)
    for (let c = 0; c < planes.length; c++) {
      const out = bits[c];
      const isHalf = channels[c].type === 'half';
      for (let x = y * w; x < (y + 1) * w; x++) {
        out[x] = isHalf ? halves[view.getUint16(at, true)] : view.getInt32(at, true);
        at += isHalf ? 2 : 4;
      }
    }
}
