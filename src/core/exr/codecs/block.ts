import { type Channel, PIXEL_BYTES, type PixelType } from '../types';

/** What is packed at once: the channels in order, samples in a row, rows. */
export interface Block {
  names: readonly string[];
  types: readonly PixelType[];
  /** Which channels say that what the eye sees of them is linear. */
  isPerceptual: readonly boolean[];
  /** 16-bit words of a sample of each channel. */
  words: readonly number[];
  width: number;
  rows: number;
}

export const blockOf = (channels: readonly Channel[], width: number, rows: number): Block => ({
  names: channels.map((c) => c.name),
  types: channels.map((c) => c.type),
  isPerceptual: channels.map((c) => c.isPerceptual ?? false),
  words: channels.map((c) => PIXEL_BYTES[c.type] / 2),
  width,
  rows,
});
