import { between, type Chromaticities, inverse, luminance, SPACE_NAMES, type Space, times } from '../image';
import type { Colour } from './sums';

/** That a picture is in another space than it was taken for. */
export interface Mistaken {
  space: Space;
  /** How far its colours are from those of its reference at the same luminance, as it is taken and as it would be. */
  before: number;
  left: number;
}

/** Blocks of pixels that are held against each other, along each side: means of many pixels, in which noise counts little. */
const [LEAST_BLOCKS, MOST_BLOCKS, PIXELS_A_BLOCK] = [4, 40, 96];
/** Most that may be left for a space to be named, and by how much that must be less than before. */
const [MOST_LEFT, LESS] = [0.08, 1 / 3];
/** Less than this is no mistake that anybody would see. */
const LEAST_BEFORE = 0.01;

/** Means of blocks, channel after channel. */
function blocksOf(planes: Colour, width: number, height: number): Float64Array[] {
  const fits = Math.round(Math.sqrt((width * height) / PIXELS_A_BLOCK));
  const blocks = Math.max(LEAST_BLOCKS, Math.min(MOST_BLOCKS, fits));
  return [0, 1, 2].map((c) => {
    const sums = new Float64Array(blocks * blocks);
    const counts = new Float64Array(blocks * blocks);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const v = planes[c][y * width + x];
        const k = Math.floor((y * blocks) / height) * blocks + Math.floor((x * blocks) / width);
        if (!Number.isFinite(v)) continue;
        sums[k] += v;
        counts[k]++;
      }
    return sums.map((s, k) => (counts[k] > 0 ? s / counts[k] : 0));
  });
}

/** Share of the mean below which blocks are too dark for their colours to count. */
const FLOOR = 1 / 20;

/**
 * How far colours of blocks are from those of a reference, each at the luminance 1, as a share of it: noise changes how bright they are far more than their colour, and
 * exposure does not count.
 */
function leftOf(made: readonly Float64Array[], reference: readonly Float64Array[]): number {
  const light = (p: readonly Float64Array[]) => p[0].map((r, i) => luminance(r, p[1][i], p[2][i]));
  const [own, wanted] = [light(made), light(reference)];
  const mean = (p: Float64Array) => p.reduce((a, b) => a + b, 0) / p.length;
  const [ownFloor, floor] = [mean(own) * FLOOR, mean(wanted) * FLOOR];
  let [squares, count] = [0, 0];
  for (let i = 0; i < own.length; i++) {
    if (!(own[i] > ownFloor && wanted[i] > floor)) continue;
    for (let c = 0; c < 3; c++) squares += (made[c][i] / own[i] - reference[c][i] / wanted[i]) ** 2;
    count += 3;
  }
  return count === 0 ? 1 : Math.sqrt(squares / count);
}

/**
 * Whether a picture, read as if it were in `told`, is in another space: then it differs from a reference of the same by a constant matrix. Both are linear Rec.709, of one size; how
 * bright they are does not count. Null where no other space is much nearer, or none is near.
 */
export function mistaken(
  picture: Colour,
  reference: Colour,
  { width, height }: { width: number; height: number },
  told: Space | Chromaticities,
): Mistaken | null {
  const [read, wanted] = [picture, reference].map((p) => blocksOf(p, width, height));
  const before = leftOf(read, wanted);
  const raw = inverse(between(told, 'Rec.709'));
  const tried = SPACE_NAMES.filter((s) => s !== told).map((space): Mistaken => {
    const m = times(between(space, 'Rec.709'), raw);
    const made = m.map(([x, y, z]) => read[0].map((r, i) => x * r + y * read[1][i] + z * read[2][i]));
    return { space, before, left: leftOf(made, wanted) };
  });
  const best = tried.reduce((a, b) => (b.left < a.left ? b : a));
  const isSeen = before >= LEAST_BEFORE && best.left <= before * LESS;
  return isSeen && best.left <= MOST_LEFT ? best : null;
}
