/**
 * OpenEXR's PXR24: floats rounded to 24 bits, each the difference from the one before it in its row, byte by byte apart, and
 * deflated. Halves and whole numbers keep every bit, floats 15 bits of their fraction.
 */
import { PIXEL_BYTES, type PixelType } from '../types';
import type { Block } from './block';
import { put, room } from './hot';

/** Bytes of a sample as they are deflated. */
const KEPT: Record<PixelType, number> = { uint: 4, half: 2, float: 3 };

/** The part of a block that counts here. */
export type Rows = Pick<Block, 'types' | 'width' | 'rows'>;

/** Bytes that a block is before it is deflated. */
export const pxr24Bytes = ({ types, width, rows }: Rows): number =>
  types.reduce((n, t) => n + KEPT[t], 0) * width * rows;

type Way = 'takeRowApart' | 'putRowTogether';

/** Takes rows of channels one after another from what they were to what they become. */
function throughRows(src: Uint8Array, { types, width, rows }: Rows, way: Way): Uint8Array {
  const sizes = types.map((type) => {
    const [whole, kept] = [PIXEL_BYTES[type] * width, KEPT[type] * width];
    return way === 'takeRowApart' ? { taken: whole, given: kept } : { taken: kept, given: whole };
  });
  const n = sizes.reduce((sum, s) => sum + s.given, 0) * rows;
  const own = room(src.length, n);
  let [from, to] = own.at;
  const begin = to;
  put(own, from, src);
  for (let y = 0; y < rows; y++)
    types.forEach((type, c) => {
      own.loops[way](from, width, KEPT[type], to);
      from += sizes[c].taken;
      to += sizes[c].given;
    });
  return new Uint8Array(own.memory, begin, n).slice();
}

/** Lines as they are deflated. */
export const arrangePxr24 = (raw: Uint8Array, block: Rows): Uint8Array => throughRows(raw, block, 'takeRowApart');

/** The lines again, of `pxr24Bytes` bytes. */
export const restorePxr24 = (bytes: Uint8Array, block: Rows): Uint8Array => throughRows(bytes, block, 'putRowTogether');
