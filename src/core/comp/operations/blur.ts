import { put } from '../../wasm';
import { type LoopRoom, room } from '../loops';
import { type Picture, relit } from '../picture';
import { type Beyond, doubled, type Grid, halved } from './halves';

const DEVIATIONS = 3.5;
/** Pixels of deviation from which a Gauss is made of boxes. */
const BOXES_FROM = 2.5;
/** Boxes one after another. Four have the variance of the Gauss and a peak that is 4 % lower along each axis, by their kurtosis of −0.3. */
const BOXES = 4;
/** Pixels of deviation that a Gauss has at least of where it is made: wider ones of planes that are halved until it would be narrower. */
const LEAST_HALVED = 3.5;
const LANE = 16;

/** A Gauss of so many pixels' deviation: by its weights, or by boxes of 2r + 1 pixels whose two ends count in part. `pad`: how far it reaches. */
type Kernel = { pad: number; weights: Float64Array } | { pad: number; r: number; inner: number; outer: number };

function kernelOf(sigma: number): Kernel {
  if (sigma < BOXES_FROM) {
    const pad = Math.max(1, Math.ceil(sigma * DEVIATIONS));
    const weights = Float64Array.from({ length: 2 * pad + 1 }, (_, i) => Math.exp(-0.5 * ((i - pad) / sigma) ** 2));
    const sum = weights.reduce((s, w) => s + w, 0);
    return { pad, weights: weights.map((w) => w / sum) };
  }
  // Variances of boxes add up to the one that is wanted [Gwosdek et al. 2011, extended box filters].
  const variance = (sigma * sigma) / BOXES;
  const r = Math.floor((Math.sqrt(12 * variance + 1) - 1) / 2);
  const length = 2 * r + 1;
  const end = (length * (r * (r + 1) - 3 * variance)) / (6 * (variance - (r + 1) ** 2));
  return { pad: BOXES * (r + 1), r, inner: 1 / (length + 2 * end), outer: end / (length + 2 * end) };
}

/** Rows with room above and below them. */
interface Padded {
  at: number;
  /** As large, to go back and forth. */
  spare: number;
  rows: number;
  stride: number;
}

/** Blurs the columns of rows that have room above and below; tells where they are then. */
function down(
  own: LoopRoom,
  { at, spare, rows, stride }: Padded,
  kernel: Kernel,
  beyond: Beyond,
  sums: number,
): number {
  const { pad } = kernel;
  const bytes = new Uint8Array(own.memory);
  const [first, last] = [at + pad * stride, at + (pad + rows - 1) * stride];
  if (beyond === 'nothing') {
    bytes.fill(0, at, first);
    bytes.fill(0, last + stride, last + (pad + 1) * stride);
  } else
    for (let k = 0; k < pad; k++) {
      bytes.copyWithin(at + k * stride, first, first + stride);
      bytes.copyWithin(last + (k + 1) * stride, last, last + stride);
    }
  const all = rows + 2 * pad;
  if ('weights' in kernel) {
    put(own, sums, kernel.weights);
    own.loops.weighed(at, spare, stride, pad, pad + rows, pad, sums);
    return spare + pad * stride;
  }
  const { r, inner, outer } = kernel;
  let [from, to] = [at, spare];
  for (let b = 1; b <= BOXES; b++) {
    own.loops.box(from, to, stride, b * (r + 1), all - b * (r + 1), r, inner, outer, sums);
    [from, to] = [to, from];
  }
  return from + pad * stride;
}

const strideOf = (width: number) => Math.ceil((width * 4) / LANE) * LANE;

/** A plane blurred by a Gauss of `sigma` pixels where it is, one axis after the other. */
function gauss({ plane: values, width, height }: Grid, sigma: number, beyond: Beyond): Float32Array {
  const kernel = kernelOf(sigma);
  const { pad } = kernel;
  const [wide, tall] = [strideOf(width), strideOf(height)];
  const weights = 'weights' in kernel ? kernel.weights.byteLength : 0;
  const own = room(
    values.byteLength,
    ...[0, 1].map(() => (width + 2 * pad) * tall),
    ...[0, 1].map(() => (height + 2 * pad) * wide),
    Math.max(2 * Math.max(wide, tall), weights),
  );
  const [plane, a, aSpare, b, bSpare, sums] = own.at;
  put(own, plane, values);
  own.loops.turn(plane, width * 4, width, height, a + pad * tall, tall);
  const across = down(own, { at: a, spare: aSpare, rows: width, stride: tall }, kernel, beyond, sums);
  own.loops.turn(across, tall, height, width, b + pad * wide, wide);
  const done = down(own, { at: b, spare: bSpare, rows: height, stride: wide }, kernel, beyond, sums);
  const out = new Float32Array(values.length);
  for (let y = 0; y < height; y++) out.set(new Float32Array(own.memory, done + y * wide, width), y * width);
  return out;
}

/** How often planes are halved for a Gauss of `sigma` pixels, and its deviation there: halving and doubling n times are a blur of variance (4ⁿ − 1)/2. */
function halvedFor(sigma: number): { times: number; sigma: number } {
  const at = (times: number) => Math.sqrt((sigma * sigma - (4 ** times - 1) / 2) / 4 ** times);
  let times = 0;
  while (at(times + 1) >= LEAST_HALVED) times++;
  return { times, sigma: at(times) };
}

/** A Gauss of so many pixels' deviation, and what it counts. */
export interface Share {
  sigma: number;
  share: number;
}

/** A plane blurred by a sum of Gausses; those that are wide are made of halved planes. */
export function blurred(
  plane: Float32Array,
  width: number,
  height: number,
  kernels: readonly Share[],
  beyond: Beyond,
): Float32Array {
  const parts = kernels.map(({ sigma, share }) => ({ ...halvedFor(sigma), share }));
  const most = Math.max(...parts.map((p) => p.times));
  const grids: Grid[] = [{ plane, width, height }];
  while (grids.length <= most) grids.push(halved(grids[grids.length - 1], beyond));
  let sum: Grid | null = null;
  for (let times = most; times >= 0; times--) {
    const grid = grids[times];
    let own: Float32Array | null = sum && doubled(sum, grid.width, grid.height);
    for (const { sigma, share } of parts.filter((p) => p.times === times)) {
      const soft = sigma > 0 ? gauss(grid, sigma, beyond) : grid.plane;
      own ??= new Float32Array(soft.length);
      for (let i = 0; i < own.length; i++) own[i] += share * soft[i];
    }
    sum = own && { ...grid, plane: own };
  }
  return sum?.plane ?? plane;
}

/** Blur by a Gauss of `radius`, its deviation in parts of the height; alpha with it, so that edges stay right over anything. */
export function soften(p: Picture, { radius }: { radius: number }): Picture {
  const sigma = radius * p.height;
  if (sigma === 0) return p;
  const soft = (c: 0 | 1 | 2 | 3) => blurred(p.planes[c], p.width, p.height, [{ sigma, share: 1 }], 'edge');
  return { ...p, planes: [soft(0), soft(1), soft(2), soft(3)] };
}

/** What a blur of `radius` takes from light, added `amount` times: v + amount·(v − blur(v)). Even light and alpha stay. */
export function sharpen(p: Picture, { radius, amount }: { radius: number; amount: number }): Picture {
  const sigma = radius * p.height;
  if (amount === 0 || sigma === 0) return p;
  const sharper = (c: 0 | 1 | 2) => {
    const plane = p.planes[c];
    const soft = blurred(plane, p.width, p.height, [{ sigma, share: 1 }], 'edge');
    for (let i = 0; i < soft.length; i++) soft[i] = plane[i] + amount * (plane[i] - soft[i]);
    return soft;
  };
  return relit(p, [sharper(0), sharper(1), sharper(2)]);
}
