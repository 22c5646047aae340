import { boxMeans } from './box';
import type { Plane, Size, SquareFilter } from './filter';
import { judge, type Square } from './judge';
import type { Points } from './points';

/** A part of a picture that has halves of its own, made ready for filtering. */
export interface Lead {
  /** Three planes of either half, hot pixels cooled, in units of display white. */
  a: readonly Plane[];
  b: readonly Plane[];
  /** The same without what hot pixels had above their neighbours: by these windows are weighed. */
  steerA: readonly Plane[];
  steerB: readonly Plane[];
  /** Variance of one half, of its channels together. */
  variance: Plane;
  /** What was taken out of both halves, to be put back. */
  points: Points;
}

/** Pixels that the squared difference of the halves is averaged over, from the middle. */
const VARIANCE_REACH = 1;
/** Variance that any light has at least, as a share of its square, and in the dark. */
const LEAST_SHARE = 1e-5;
const DARK = 1e-3;

/** Variance of one half at every pixel, from the halves' difference smoothed over a few pixels. */
export function varianceOf(a: readonly Plane[], b: readonly Plane[], { width, height }: Size): Plane {
  const raw = new Float32Array(width * height);
  const light = new Float32Array(width * height);
  for (let c = 0; c < 3; c++)
    for (let i = 0; i < raw.length; i++) {
      raw[i] += (a[c][i] - b[c][i]) ** 2 / 2;
      light[i] += ((a[c][i] + b[c][i]) / 2) ** 2;
    }
  const out = boxMeans(raw, { width, height }, VARIANCE_REACH);
  for (let i = 0; i < out.length; i++) out[i] = Math.max(out[i], LEAST_SHARE * (light[i] + DARK));
  return out;
}

/** Both halves of a part filtered in the square that `filter` has taken: weights from one half act on the other. */
export function filterLead(filter: SquareFilter, lead: Lead, mask: Float32Array): { a: Square; b: Square } {
  const one = (steer: readonly Plane[], source: readonly Plane[]) => {
    filter.weigh(steer, lead.variance);
    const out = filter.fit(source, true).map((p) => p.slice());
    return [out.slice(0, 3), out.slice(3, 6), out.slice(6, 9)];
  };
  const [ofA, ofB] = [one(lead.steerB, lead.a), one(lead.steerA, lead.b)];
  const [a, b] = [lead.a.map((p) => filter.cut(p)), lead.b.map((p) => filter.cut(p))];
  const ways = [...ofA.map((w, i) => ({ a: w, b: ofB[i] })), { a, b }];
  const shares = judge(a, b, ways, mask);
  const mixed = (half: 'a' | 'b') =>
    [0, 1, 2].map((c) => {
      const out = new Float32Array(a[0].length);
      ways.forEach((way, w) => {
        const [share, plane] = [shares[w], way[half][c]];
        for (let i = 0; i < out.length; i++) out[i] += share[i] * plane[i];
      });
      return out;
    });
  return { a: mixed('a'), b: mixed('b') };
}
