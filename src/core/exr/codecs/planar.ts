/** Words of a block's channels one after another, as several packings want them; a file's lines have the channels side by side. */
import type { Block } from './block';

/** The part of a block that counts here. */
export type Words = Pick<Block, 'words' | 'width' | 'rows'>;

/** 16-bit words of a block. */
export const countWords = ({ words, width, rows }: Words): number => words.reduce((n, w) => n + w, 0) * width * rows;

/** Copies words between lines, in which the channels follow each other, and channels one after another. */
function arranged({ words, width, rows }: Words, copy: (line: number, channel: number, count: number) => void): void {
  let line = 0;
  for (let y = 0; y < rows; y++) {
    let channel = 0;
    for (const w of words) {
      copy(line, channel + y * w * width, w * width);
      line += w * width;
      channel += w * width * rows;
    }
  }
}

/** Words as files have them, the low byte first, as every machine that this runs on has them; a copy, also of a host's buffers, whose slices are none. */
export const wordsOf = (bytes: Uint8Array): Uint16Array =>
  new Uint16Array(new Uint8Array(bytes).buffer, 0, bytes.length >> 1);

/** The other way, the same memory. */
export const bytesOf = (words: Uint16Array): Uint8Array =>
  new Uint8Array(words.buffer, words.byteOffset, words.length * 2);

/** Words of lines, channel after channel. */
export function channelsOf(raw: Uint8Array, block: Words): Uint16Array {
  const lines = wordsOf(raw);
  const words = new Uint16Array(lines.length);
  arranged(block, (line, channel, count) => words.set(lines.subarray(line, line + count), channel));
  return words;
}

/** The lines again. */
export function linesOf(words: Uint16Array, block: Words): Uint8Array {
  const lines = new Uint16Array(words.length);
  arranged(block, (line, channel, n) => lines.set(words.subarray(channel, channel + n), line));
  return bytesOf(lines);
}

/** Where each channel's words lie among those of `channelsOf`. */
export function channelStarts({ words, width, rows }: Words): number[] {
  let at = 0;
  return words.map((w) => {
    const start = at;
    at += w * width * rows;
    return start;
  });
}
