import { type Channel, PIXEL_BYTES, type PixelType } from '../types';

/** What is packed at once: the channels in order, samples in a row, rows. */
export interface Block {
  types: readonly PixelType[];
  /** 16-bit words of a sample of each channel. */
  words: readonly number[];
  width: number;
  rows: number;
}

export const blockOf = (channels: readonly Channel[], width: number, rows: number): Block => ({
  types: channels.map((c) => c.type),
  words: channels.map((c) => PIXEL_BYTES[c.type] / 2),
  width,
  rows,
});
