import { roomsOf } from '../wasm';
import { HOT } from './hot-bytes';

/** Addresses of the planes of a picture, wherever each of them lies. */
export type Four = readonly [r: number, g: number, b: number, a: number];

/** Addresses and numbers of floats; what each does stands beside it in `assembly`. */
interface Loops {
  freeFrom(): number;
  join(way: number, below: number, stride: number, ...layerMaskCount: [...Four, m: number, n: number]): void;
  joinEvenly(way: number, below: number, stride: number, ...layerShareCount: [...Four, even: number, n: number]): void;
  blend(before: number, stride: number, ...afterMaskCount: [...Four, m: number, n: number]): void;
  scale(at: number, stride: number, r: number, g: number, b: number, n: number): void;
  times(at: number, stride: number, by: number, n: number): void;
  weigh(at: number, k: number, n: number): void;
  saturate(at: number, stride: number, amount: number, kr: number, kg: number, kb: number, n: number): void;
  lead(
    at: number,
    stride: number,
    r: number,
    g: number,
    b: number,
    slopeR: number,
    slopeG: number,
    slopeB: number,
    n: number,
  ): void;
  gain(
    at: number,
    stride: number,
    r: number,
    g: number,
    b: number,
    kr: number,
    kg: number,
    kb: number,
    n: number,
  ): void;
  veil(at: number, stride: number, depth: number, left: number, r: number, g: number, b: number, n: number): void;
  box(
    from: number,
    to: number,
    stride: number,
    first: number,
    last: number,
    r: number,
    inner: number,
    outer: number,
    sums: number,
  ): void;
  weighed(from: number, to: number, stride: number, first: number, last: number, reach: number, weights: number): void;
  turn(from: number, stride: number, width: number, height: number, to: number, tall: number): void;
  addUp(from: number, to: number, width: number, height: number, pad: number, stride: number): void;
  gatherShape(
    sums: number,
    stride: number,
    pad: number,
    shape: number,
    rows: number,
    out: number,
    width: number,
    height: number,
    x0: number,
    y0: number,
    x1: number,
    y1: number,
  ): void;
  over(at: number, by: number, n: number): void;
  pull(from: number, width: number, height: number, to: number): void;
  evened(at: number, known: number, n: number): void;
  capped(at: number, n: number): void;
  push(at: number, known: number, coarse: number, width: number, height: number): void;
  confuse(depth: number, to: number, n: number, metres: number, endless: number, most: number): number;
  slice(signed: number, of: number, slices: number, width: number, height: number, step: number, middle: number): void;
  take(...pictureOfAndInto: [...Four, of: number, k: number, n: number, ...Four, share: number, known: number]): void;
  lay(...pictureAndBy: [...Four, covered: number, n: number, ...Four, share: number]): void;
  enlarge(plane: number, w: number, h: number, times: number, y: number, n: number, row: number, to: number): void;
  settle(...picture: [...Four, covered: number, n: number]): void;
}

/** Rooms of the loops of stacks, of at most two gigabytes. */
export const room = roomsOf<Loops>(HOT, 32768);
export type LoopRoom = ReturnType<typeof room>;
