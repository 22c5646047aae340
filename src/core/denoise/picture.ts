import type { Plane, Size, SquareFilter } from './filter';
import { JUDGE_MARGIN, type Square, squareSums } from './judge';
import { MOST_CHANNELS, SIDE } from './layout';
import { filterLead, type Lead } from './lead';
import { putPoints } from './points';
import { reconcile } from './reconcile';

/** A part without halves, filtered by the weights of the whole picture. */
export interface Follower {
  planes: readonly Plane[];
}

/** Followers that sum to some leads together: to the picture, or to one light group. By their numbers. */
export interface Family {
  followers: readonly number[];
  of: readonly number[];
}

/** A picture to be denoised: everything a square of it needs, in planes of one size and in units of display white. */
export interface Picture {
  size: Size;
  guides: readonly Plane[];
  /** Variance of those that tell surfaces apart, together. */
  guideVariance: Plane;
  leads: readonly Lead[];
  /** Numbers of the leads that sum to the picture. */
  parts: readonly number[];
  /** These leads and both halves together: three planes, and the variance of their channels together. */
  whole: { planes: readonly Plane[]; variance: Plane };
  followers: readonly Follower[];
  families: readonly Family[];
}

/** Results: three planes of either half of each lead, and of each follower. */
export interface Results {
  leads: readonly { a: readonly Plane[]; b: readonly Plane[] }[];
  followers: readonly (readonly Plane[])[];
}

/** Side of the squares whose results are kept: what is nearer to the edge is another square's. */
export const STEP = SIDE - 2 * JUDGE_MARGIN;

/** Top left pixels of the squares that a picture, or the part of it from (x, y), is filtered in. */
export function squaresOf({ width, height }: Size, part = { x: 0, y: 0, width, height }): { x: number; y: number }[] {
  const out = [];
  for (let y = Math.floor(part.y / STEP) * STEP; y < part.y + part.height; y += STEP)
    for (let x = Math.floor(part.x / STEP) * STEP; x < part.x + part.width; x += STEP) out.push({ x, y });
  return out;
}

/** Pixels over which what filtering took off a follower is averaged, from the middle: its variance. */
const TAKEN_REACH = 4;

/** Filters the square at (x, y) of all parts and writes it to `results`. The same bits whoever does it and in what order. */
export function denoiseSquare(filter: SquareFilter, picture: Picture, x: number, y: number, results: Results): void {
  const { size } = picture;
  filter.begin(x - JUDGE_MARGIN, y - JUDGE_MARGIN, size, picture.guides, picture.guideVariance);
  const mask = filter.mask();
  const write = (from: Float32Array, to: Plane) => {
    const w = Math.min(STEP, size.width - x);
    for (let j = 0; j < Math.min(STEP, size.height - y); j++) {
      const at = (j + JUDGE_MARGIN) * SIDE + JUDGE_MARGIN;
      to.set(from.subarray(at, at + w), (y + j) * size.width + x);
    }
  };
  const leads = picture.leads.map((lead, l) => {
    const done = filterLead(filter, lead, mask);
    const part = { x: x - JUDGE_MARGIN, y: y - JUDGE_MARGIN, side: SIDE };
    for (const half of [done.a, done.b]) putPoints(lead.points, half, size, part);
    for (let c = 0; c < 3; c++) {
      write(done.a[c], results.leads[l].a[c]);
      write(done.b[c], results.leads[l].b[c]);
    }
    return [0, 1, 2].map((c) => {
      const [a, b] = [done.a[c], done.b[c]];
      const mean = new Float32Array(a.length);
      for (let i = 0; i < mean.length; i++) mean[i] = (a[i] + b[i]) / 2;
      return mean;
    });
  });
  if (picture.followers.length === 0) return;
  const followers = filterFollowers(filter, picture);
  for (const family of picture.families) {
    const parts = family.followers.map((f) => followers[f]);
    const taken = family.followers.map((f, j) => variancesOf(picture.followers[f], parts[j], filter));
    for (let c = 0; c < 3; c++) {
      const whole = new Float32Array(SIDE * SIDE);
      for (const l of family.of) {
        const part = leads[l][c];
        for (let i = 0; i < whole.length; i++) whole[i] += part[i];
      }
      reconcile(
        parts.map((p) => p[c]),
        taken,
        whole,
      );
    }
  }
  followers.forEach((f, j) => {
    for (let c = 0; c < 3; c++) write(f[c], results.followers[j][c]);
  });
}

/** All followers by the weights of the whole picture, which both halves steer together. */
function filterFollowers(filter: SquareFilter, { whole, followers }: Picture): Float32Array[][] {
  filter.weigh(whole.planes, whole.variance);
  const out: Float32Array[][] = [];
  const most = MOST_CHANNELS / 3;
  for (let from = 0; from < followers.length; from += most) {
    const some = followers.slice(from, from + most);
    const planes = filter.fit(
      some.flatMap((f) => f.planes),
      false,
    );
    some.forEach((_, j) => {
      out.push(planes.slice(j * 3, j * 3 + 3).map((p) => p.slice()));
    });
  }
  return out;
}

/** What filtering took off a follower, squared and averaged about each pixel: the variance it had, as well as can be told. */
function variancesOf(follower: Follower, filtered: Square, filter: SquareFilter): Float32Array {
  const taken = new Float32Array(SIDE * SIDE);
  follower.planes.forEach((p, c) => {
    const own = filter.cut(p);
    const clean = filtered[c];
    for (let i = 0; i < taken.length; i++) taken[i] += (own[i] - clean[i]) ** 2;
  });
  return squareSums(taken, TAKEN_REACH);
}
