/**
 * OpenEXR's PXR24: floats rounded to 24 bits, each the difference from the one before it in its row, byte by byte apart, and
 * deflated. Halves and whole numbers keep every bit, floats 15 bits of their fraction.
 */
import type { PixelType } from '../types';
import type { Block } from './block';

/** Bytes of a sample as they are deflated. */
const KEPT: Record<PixelType, number> = { uint: 4, half: 2, float: 3 };

/** The part of a block that counts here. */
export type Rows = Pick<Block, 'types' | 'width' | 'rows'>;

/** Bytes that a block is before it is deflated. */
export const pxr24Bytes = ({ types, width, rows }: Rows): number =>
  types.reduce((n, t) => n + KEPT[t], 0) * width * rows;

/** The bits of a float rounded to 24; what would become infinite by it is cut off instead. */
function rounded(bits: number): number {
  const sign = (bits >>> 8) & 0x800000;
  const exponent = bits & 0x7f800000;
  const fraction = bits & 0x007fffff;
  if (exponent === 0x7f800000) {
    if (fraction === 0) return sign | (exponent >>> 8);
    // No number stays none.
    const kept = fraction >>> 8;
    return sign | (exponent >>> 8) | (kept === 0 ? 1 : kept);
  }
  const up = ((exponent | fraction) + (fraction & 0x80)) >>> 8;
  return sign | (up >= 0x7f8000 ? (exponent | fraction) >>> 8 : up);
}

/** Lines as they are deflated. */
export function arrangePxr24(raw: Uint8Array, { types, width, rows }: Rows): Uint8Array {
  const out = new Uint8Array(pxr24Bytes({ types, width, rows }));
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  let [from, to] = [0, 0];
  for (let y = 0; y < rows; y++)
    for (const type of types) {
      const kept = KEPT[type];
      let before = 0;
      for (let x = 0; x < width; x++) {
        const value = type === 'half' ? view.getUint16(from, true) : view.getUint32(from, true);
        from += type === 'half' ? 2 : 4;
        const own = type === 'float' ? rounded(value) : value;
        const apart = own - before;
        before = own;
        for (let b = 0; b < kept; b++) out[to + b * width + x] = apart >> (8 * (kept - 1 - b));
      }
      to += kept * width;
    }
  return out;
}

/** The lines again. */
export function restorePxr24(bytes: Uint8Array, { types, width, rows }: Rows): Uint8Array {
  const out = new Uint8Array(types.reduce((n, t) => n + (t === 'half' ? 2 : 4), 0) * width * rows);
  const view = new DataView(out.buffer);
  let [from, to] = [0, 0];
  for (let y = 0; y < rows; y++)
    for (const type of types) {
      const kept = KEPT[type];
      let value = 0;
      for (let x = 0; x < width; x++) {
        let apart = 0;
        for (let b = 0; b < kept; b++) apart = (apart << 8) | bytes[from + b * width + x];
        value = (value + apart) | 0;
        if (type === 'half') view.setUint16(to, value & 0xffff, true);
        else view.setUint32(to, type === 'float' ? value << 8 : value, true);
        to += type === 'half' ? 2 : 4;
      }
      from += kept * width;
    }
  return out;
}
