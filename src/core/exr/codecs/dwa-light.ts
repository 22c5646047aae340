/**
 * The part of DWA that loses: halves bent to what the eye sees, eight by eight to cosines, those rounded to halves of few bits,
 * and runs of zeros counted. The corner of each block goes one way (`dc`), the others another (`ac`).
 */
import { fromHalf, halfPlane, halfTable, toHalf } from '../half';
import { AREA, SIDE, toFrequencies, toValues, ZIGZAG } from './dct';

/** Largest error of a coefficient at the coarsest level of the eye's own. */
const BASE_ERROR = 45 / 100000;
/** e^2.2 as the format rounds it: where the bent scale goes on as a logarithm. */
const LOG_BASE = Math.exp(2.2);

let curves: { bent: Uint16Array; linear: Uint16Array } | null = null;
/** Halves to the bent scale and back: a power of 1/2.2 up to 1, a logarithm from there. */
function scales(): { bent: Uint16Array; linear: Uint16Array } {
  if (curves) return curves;
  const bent = new Uint16Array(65536);
  const linear = new Uint16Array(65536);
  for (let h = 1; h < 65536; h++) {
    const v = fromHalf(h);
    if (!Number.isFinite(v)) continue;
    const [size, sign] = [Math.abs(v), v < 0 ? -1 : 1];
    bent[h] = toHalf(sign * (size <= 1 ? size ** (1 / 2.2) : Math.log(size) / Math.log(LOG_BASE) + 1));
    linear[h] = toHalf(sign * (size <= 1 ? size ** 2.2 : LOG_BASE ** (size - 1)));
  }
  curves = { bent, linear };
  return curves;
}

/** What JPEG weighs coefficients by [ITU-T T.81, annex K]: of brightness and of colour, each against its least. */
const LUMA = [
  16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55, 14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29, 51,
  87, 80, 62, 18, 22, 37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92, 49, 64, 78, 87, 103, 121, 120, 101,
  72, 92, 95, 98, 112, 100, 103, 99,
].map((w) => (BASE_ERROR * w) / 10);
const CHROMA = [
  17, 18, 24, 47, 99, 99, 99, 99, 18, 21, 26, 66, 99, 99, 99, 99, 24, 26, 56, 99, 99, 99, 99, 99, 47, 66, 99, 99, 99,
  99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99,
  99, 99, 99, 99, 99, 99,
].map((w) => (BASE_ERROR * w) / 17);

/**
 * The half of fewest set bits within an error of a number that half holds. Halves of one sign are ordered as their bits are: of
 * all between two, the one with the bits that both begin with, a one if the lower has more, and zeros has the fewest.
 */
export function fewestBits(value: number, error: number): number {
  const size = Math.abs(value);
  if (size <= error) return 0;
  const table = halfTable();
  const sign = value < 0 ? 0x8000 : 0;
  let low = toHalf(size - error);
  if (table[low] < size - error) low++;
  let high = toHalf(size + error);
  if (table[high] > size + error) high--;
  // Where no half lies within the error, the nearest stands on either side.
  if (low >= high) return sign | toHalf(size);
  const bit = 1 << (31 - Math.clz32(low ^ high));
  return sign | ((low & (2 * bit - 1)) === 0 ? low : high & ~(bit - 1));
}

/** Words that stand for zeros: so many of them, or all that are left of a block. */
const ZEROS = 0xff00;

/** Blocks of a channel. */
export const blocksOf = (width: number, rows: number): number => Math.ceil(width / SIDE) * Math.ceil(rows / SIDE);

/** Where words of a direction go, or come from. */
export interface Words {
  words: Uint16Array;
  at: number;
}

/** One channel, or three of a colour; halves of `width` × `rows`. */
export interface Light {
  planes: readonly Uint16Array[];
  isPerceptual: boolean;
  width: number;
  rows: number;
}

const tiles = [0, 1, 2].map(() => new Float32Array(AREA));

/** Red, green, blue to brightness and two differences, in place [ITU-R BT.709]. */
function toDifferences([a, b, c]: Float32Array[]): void {
  for (let i = 0; i < AREA; i++) {
    const [r, g, l] = [a[i], b[i], c[i]];
    a[i] = 0.2126 * r + 0.7152 * g + 0.0722 * l;
    b[i] = -0.1146 * r - 0.3854 * g + 0.5 * l;
    c[i] = 0.5 * r - 0.4542 * g - 0.0458 * l;
  }
}

function fromDifferences([a, b, c]: Float32Array[]): void {
  for (let i = 0; i < AREA; i++) {
    const [y, cb, cr] = [a[i], b[i], c[i]];
    a[i] = y + 1.5747 * cr;
    b[i] = y - 0.1873 * cb - 0.4682 * cr;
    c[i] = y + 1.8556 * cb;
  }
}

const zigzag = new Uint16Array(AREA);

/** Packs the blocks of one channel or one colour. There must be room for 63 words of `ac` a block and channel. */
export function packLight({ planes, isPerceptual, width, rows }: Light, dc: Words, ac: Words): void {
  const table = halfTable();
  const { bent } = scales();
  const count = blocksOf(width, rows);
  const own = tiles.slice(0, planes.length);
  let n = 0;
  for (let y = 0; y < rows; y += SIDE)
    for (let x = 0; x < width; x += SIDE, n++) {
      for (let c = 0; c < own.length; c++) {
        const [tile, plane] = [own[c], planes[c]];
        for (let i = 0; i < AREA; i++) {
          // Beyond the edge the picture is mirrored, so that no step is packed that is not in it.
          const u = x + (i & 7);
          const v = y + (i >> 3);
          const column = u < width ? u : Math.max(0, 2 * (width - 1) - u);
          const row = v < rows ? v : Math.max(0, 2 * (rows - 1) - v);
          const half = plane[row * width + column];
          tile[i] = table[isPerceptual ? half : bent[half]];
        }
      }
      if (own.length === 3) toDifferences(own);
      for (let c = 0; c < own.length; c++) {
        const tile = own[c];
        toFrequencies(tile);
        const errors = c === 0 ? LUMA : CHROMA;
        for (let k = 0; k < AREA; k++) {
          const place = ZIGZAG[k];
          zigzag[k] = fewestBits(tile[place], errors[place]);
        }
        dc.words[dc.at + c * count + n] = zigzag[0];
        for (let k = 1; k < AREA; ) {
          let run = 0;
          while (k + run < AREA && zigzag[k + run] === 0) run++;
          if (run <= 1) ac.words[ac.at++] = zigzag[k];
          else ac.words[ac.at++] = k + run === AREA ? ZEROS : ZEROS | run;
          k += Math.max(1, run);
        }
      }
    }
  dc.at += count * planes.length;
}

/** The halves again, into the planes. Throws where there are not words enough. */
export function unpackLight({ planes, isPerceptual, width, rows }: Light, dc: Words, ac: Words): void {
  const table = halfTable();
  const { linear } = scales();
  const count = blocksOf(width, rows);
  if (dc.at + count * planes.length > dc.words.length) throw new Error('blocks are cut short');
  const own = tiles.slice(0, planes.length);
  let n = 0;
  for (let y = 0; y < rows; y += SIDE)
    for (let x = 0; x < width; x += SIDE, n++) {
      for (let c = 0; c < own.length; c++) {
        const tile = own[c];
        tile.fill(0);
        tile[0] = table[dc.words[dc.at + c * count + n]];
        let last = 0;
        for (let k = 1; k < AREA; ) {
          if (ac.at >= ac.words.length) throw new Error('blocks are cut short');
          const word = ac.words[ac.at++];
          if (word === ZEROS) break;
          if (word >> 8 === 0xff) {
            k += word & 255;
            continue;
          }
          const place = ZIGZAG[k++];
          tile[place] = table[word];
          last = Math.max(last, place >> 3);
        }
        toValues(tile, last + 1);
      }
      if (own.length === 3) fromDifferences(own);
      const [across, down] = [Math.min(SIDE, width - x), Math.min(SIDE, rows - y)];
      for (let c = 0; c < own.length; c++) {
        const plane = planes[c];
        halfPlane(own[c], zigzag);
        for (let j = 0; j < down; j++) {
          const to = (y + j) * width + x;
          for (let i = 0; i < across; i++) {
            const half = zigzag[j * SIDE + i];
            plane[to + i] = isPerceptual ? half : linear[half];
          }
        }
      }
    }
  dc.at += count * planes.length;
}
