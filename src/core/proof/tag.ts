import { between, type Chromaticities, inverse, SPACE_NAMES, type Space, times } from '../image';
import type { Colour } from './sums';

/** That a picture is in another space than it was taken for. */
export interface Mistaken {
  space: Space;
  /** What is left between it and its reference, as it is taken and as it would be, as shares of the reference. */
  before: number;
  left: number;
}

/** Blocks of pixels that are held against each other, along each side: means, in which noise counts little. */
const BLOCKS = 40;
/** Most that may be left for a space to be named, and by how much that must be less than before. */
const [MOST_LEFT, LESS] = [0.08, 1 / 3];
/** Less than this is no mistake that anybody would see. */
const LEAST_BEFORE = 0.01;

/** Means of blocks, channel after channel. */
function blocksOf(planes: Colour, width: number, height: number): Float64Array[] {
  return [0, 1, 2].map((c) => {
    const sums = new Float64Array(BLOCKS * BLOCKS);
    const counts = new Float64Array(BLOCKS * BLOCKS);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const v = planes[c][y * width + x];
        const k = Math.floor((y * BLOCKS) / height) * BLOCKS + Math.floor((x * BLOCKS) / width);
        if (!Number.isFinite(v)) continue;
        sums[k] += v;
        counts[k]++;
      }
    return sums.map((s, k) => (counts[k] > 0 ? s / counts[k] : 0));
  });
}

/** What is left of a reference less a picture at the factor that fits it best, as a share of the reference. */
function leftOf(made: readonly Float64Array[], reference: readonly Float64Array[]): number {
  let [own, both, all] = [0, 0, 0];
  made.forEach((plane, c) => {
    for (let i = 0; i < plane.length; i++) {
      own += plane[i] * plane[i];
      both += plane[i] * reference[c][i];
      all += reference[c][i] * reference[c][i];
    }
  });
  if (!(own > 0 && all > 0)) return 1;
  return Math.sqrt(Math.max(0, all - (both * both) / own) / all);
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
