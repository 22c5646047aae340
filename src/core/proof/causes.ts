import { encodeSrgb, luminance, type Matrix } from '../image';
import { CURVES, type Curve, undone } from './curves';
import { weightsOf } from './fit';
import { blurred, HALOS } from './glow';
import { pairOf } from './pairs';
import { apart, CHANNELS, type Colour, type Held, type PartOf, summed, type Values } from './sums';

/** Why parts do not sum to the beauty. Layers are named as the file has them. */
export type Cause =
  /** Values that became infinite, or stand at the end of half. */
  | { kind: 'overflow'; layers: string[] }
  /** Values cut at a ceiling. */
  | { kind: 'ceiling'; layers: string[]; at: number; share: number }
  /** Layers that hold nothing but steps of eight bits. */
  | { kind: 'eight-bit'; layers: string[] }
  /** A layer that is not called a part, and is what is missing. */
  | { kind: 'misnamed'; layer: string }
  /** A layer that is so many times what it should be; Infinity: a part of which the beauty has nothing. */
  | { kind: 'gain'; layer: string; factor: number }
  /** Colours led through a constant matrix; `pair`: from which space to which. */
  | { kind: 'matrix'; layer: string; matrix: Matrix; pair: [string, string] | null }
  /** A curve for displays baked in. */
  | { kind: 'curve'; layers: 'beauty' | 'parts' | 'all'; curve: Curve }
  /** Light spread around what is bright; `share` of the beauty. */
  | { kind: 'glow'; share: number };

/** An experiment counts when what is left of the error is at most this part of it. */
const EXPLAINS = 1 / 12;
/** Halos are known by their widths alone: their fit may leave more. */
const GLOW_EXPLAINS = 1 / 5;
/** What is left of the error without cut pixels where the cut alone is told. */
const CEILING_EXPLAINS = 1 / 4;
/** So many values that all are steps of eight bits are not so by chance. */
const MANY_VALUES = 64;
const LARGEST_HALF = 65504;

const BEAUTY = 'beauty';

/** Whether planes hold nothing but steps of eight bits, straight or decoded from sRGB, and those not in black alone. */
function isOfSteps(planes: Colour): boolean {
  const holds = (encode: (v: number) => number): boolean => {
    let lit = 0;
    for (const plane of planes)
      for (const v of plane) {
        if (!(v >= 0 && v <= 1)) return false;
        const step = encode(v) * 255;
        // Half rounds by 2^-11, a power of it by less.
        if (Math.abs(step - Math.round(step)) > 0.02 + step * 2 ** -11) return false;
        if (step > 0.5) lit++;
      }
    return lit >= MANY_VALUES;
  };
  return holds((v) => v) || holds(encodeSrgb);
}

const all = (held: Held): PartOf[] => [{ name: BEAUTY, planes: held.beauty }, ...held.parts];

function eightBit(held: Held): Cause[] {
  const layers = all(held).filter(({ planes }) => isOfSteps(planes));
  return layers.length === 0 ? [] : [{ kind: 'eight-bit', layers: layers.map((l) => l.name) }];
}

/** A layer's largest value, where enough pixels have it to be a ceiling. */
function ceilingOf({ planes }: PartOf): number | null {
  let top = Number.NEGATIVE_INFINITY;
  for (const plane of planes) for (const v of plane) if (v > top) top = v;
  if (!(top > 0) || !Number.isFinite(top)) return null;
  const count = planes.reduce((n, plane) => n + plane.reduce((k, v) => k + (v === top ? 1 : 0), 0), 0);
  const size = planes[0].length;
  return count >= Math.max(6, size * 3e-4) && count < size * 1.5 ? top : null;
}

/** What is cut off, where: which pixels count without it, and whether all add up that do. */
interface Cut {
  cause: Cause;
  counts: Uint8Array;
  isAll: boolean;
}

/** Layers that are cut off: at their ceilings the sum differs, and to the side that a cut explains. */
function ceilings(held: Held, sum: Values, error: (i: number) => number, limit: number): Cut | null {
  const size = held.beauty[0].length;
  const found: { name: string; at: number }[] = [];
  const counts = new Uint8Array(size).fill(1);
  for (const layer of all(held)) {
    const top = ceilingOf(layer);
    if (top === null) continue;
    const at: number[] = [];
    let [differ, agree] = [0, 0];
    for (let i = 0; i < size; i++)
      for (const c of CHANNELS) {
        if (layer.planes[c][i] !== top) continue;
        at.push(i);
        const d = sum[c][i] - held.beauty[c][i];
        if (Math.abs(d) <= limit * Math.abs(held.beauty[c][i])) continue;
        differ++;
        if (layer.name === BEAUTY ? d > 0 : d < 0) agree++;
      }
    if (differ === 0 || agree < differ * 0.95) continue;
    found.push({ name: layer.name, at: top });
    for (const i of at) counts[i] = 0;
  }
  if (found.length === 0) return null;
  let [rest, cut] = [0, 0];
  for (let i = 0; i < size; i++)
    if (counts[i] === 0) cut++;
    else rest = Math.max(rest, error(i));
  const cause: Cause = { kind: 'ceiling', layers: found.map((f) => f.name), at: found[0].at, share: cut / size };
  return { cause, counts, isAll: rest <= limit };
}

const lessThan = (beauty: Colour, sum: Values): Float64Array[] =>
  CHANNELS.map((c) => Float64Array.from(beauty[c], (v, i) => v - sum[c][i]));

/** One colour after another in one row, so that a weight is sought over all three. */
function inRow(planes: Values): Float64Array {
  const size = planes[0].length;
  const out = new Float64Array(size * 3);
  for (const c of CHANNELS) for (let i = 0; i < size; i++) out[c * size + i] = planes[c][i];
  return out;
}

/** The matrix that leads `from` nearest to `to`, and what it makes of it. */
function matrixBetween(
  from: Values,
  to: Values,
  counts: Uint8Array | null,
): { matrix: number[][]; made: Float64Array[] } | null {
  const rows = CHANNELS.map((c) => weightsOf(to[c], from, counts));
  if (rows.some((r) => r === null)) return null;
  const matrix = rows as number[][];
  const made = matrix.map((row) =>
    Float64Array.from(
      from[0] as ArrayLike<number>,
      (_, i) => row[0] * from[0][i] + row[1] * from[1][i] + row[2] * from[2][i],
    ),
  );
  return { matrix, made };
}

/** The factor by which a matrix does no more than scale; null where it does more. */
function factorOf(m: Matrix): number | null {
  const k = (m[0][0] + m[1][1] + m[2][2]) / 3;
  const isScale = m.every((row, i) =>
    row.every((v, j) => Math.abs(v - (i === j ? k : 0)) < 0.002 * Math.max(1, Math.abs(k))),
  );
  return isScale ? k : null;
}

/** A fault that may be the cause, and two pictures that are alike if it is. */
interface Experiment {
  cause: Cause;
  wanted: Values;
  made: Values;
  most?: number;
}

/** What a sum would be with so much more of a layer. */
const withMore = (sum: readonly Float64Array[], planes: Values, weight: number): Float64Array[] =>
  sum.map((s, c) => s.map((v, i) => v + weight * planes[c][i]));

/** The experiments, from the most certain on. */
function* experiments(
  { width, height, beauty, parts }: Held,
  others: readonly PartOf[],
  sum: readonly Float64Array[],
  counts: Uint8Array | null,
): Generator<Experiment> {
  const size = width * height;
  const missing = lessThan(beauty, sum);
  const row = inRow(missing);
  const rowCounts = counts ? Uint8Array.from({ length: size * 3 }, (_, k) => counts[k % size]) : null;
  const weightOf = (planes: Values) => weightsOf(row, [inRow(planes)], rowCounts)?.[0] ?? 0;
  for (const { name, planes } of others)
    if (Math.abs(weightOf(planes) - 1) < 0.01)
      yield { cause: { kind: 'misnamed', layer: name }, wanted: beauty, made: withMore(sum, planes, 1) };
  for (const { name, planes } of parts) {
    const weight = weightOf(planes);
    const factor = weight > -0.999 ? 1 / (1 + weight) : Number.POSITIVE_INFINITY;
    yield { cause: { kind: 'gain', layer: name, factor }, wanted: beauty, made: withMore(sum, planes, weight) };
  }
  const whole = matrixBetween(sum, beauty, counts);
  if (whole) {
    const { matrix, made } = whole;
    const factor = factorOf(matrix);
    const cause: Cause =
      factor === null
        ? { kind: 'matrix', layer: BEAUTY, matrix, pair: pairOf(matrix) }
        : { kind: 'gain', layer: BEAUTY, factor };
    yield { cause, wanted: beauty, made };
  }
  for (const curve of Object.keys(CURVES) as Curve[]) {
    const flat = beauty.map((p) => undone(curve, p));
    const linear = summed(
      parts.map((p) => ({ ...p, planes: p.planes.map((q) => undone(curve, q)) })),
      size,
    );
    yield { cause: { kind: 'curve', layers: 'beauty', curve }, wanted: flat, made: sum };
    yield { cause: { kind: 'curve', layers: 'parts', curve }, wanted: beauty, made: linear };
    yield { cause: { kind: 'curve', layers: 'all', curve }, wanted: flat, made: linear };
  }
  for (const { name, planes } of parts) {
    // What the part would have to be, and which matrix leads from there to what it is.
    const right = CHANNELS.map((c) => missing[c].map((v, i) => v + planes[c][i]));
    const forth = matrixBetween(planes, right, counts);
    const back = matrixBetween(right, planes, counts);
    if (!forth || !back) continue;
    const made = sum.map((s, c) => s.map((v, i) => v - planes[c][i] + forth.made[c][i]));
    const cause: Cause = { kind: 'matrix', layer: name, matrix: back.matrix, pair: pairOf(back.matrix) };
    yield { cause, wanted: beauty, made };
  }
  const halos = HALOS.map((s) => sum.map((plane) => blurred(plane, width, height, s)));
  const weights = weightsOf(row, [inRow(sum), ...halos.map(inRow)], rowCounts);
  if (!weights) return;
  const made = halos.reduce((all, h, k) => withMore(all, h, weights[k + 1]), withMore(sum, sum, weights[0]));
  const share = weights.slice(1).reduce((t, w) => t + w, 0);
  if (share > 0) yield { cause: { kind: 'glow', share }, wanted: beauty, made, most: GLOW_EXPLAINS };
}

/** The cause that explains the error; of several the one that leaves least, a later one only where that is much less. */
function bestOf(of: Iterable<Experiment>, before: number, counts: Uint8Array | null): Cause | null {
  let best: { cause: Cause; left: number } | null = null;
  for (const { cause, wanted, made, most = EXPLAINS } of of) {
    const left = apart(wanted, made, counts);
    if (left <= before * most && (best === null || left < best.left / 2)) best = { cause, left };
  }
  return best?.cause ?? null;
}

/**
 * What keeps the parts from summing to the beauty, found by experiment: each possible fault is undone, and counts when the sum is
 * then right, or nearly. `limit`: largest error at which it is right, relative to max(beauty, mean / 100). `others`: layers of
 * light that the file has beside the parts. None of the causes where nothing is found.
 */
export function causesOf(held: Held, others: readonly PartOf[], limit: number): Cause[] {
  const { width, height, beauty, parts } = held;
  const size = width * height;
  const isOver = (v: number) => v === LARGEST_HALF || v === Number.POSITIVE_INFINITY;
  const over = all(held).filter(({ planes }) => planes.some((plane) => plane.some(isOver)));
  if (over.length > 0) return [{ kind: 'overflow', layers: over.map((l) => l.name) }];
  const sum = summed(parts, size);
  let mean = 0;
  for (let i = 0; i < size; i++) mean += luminance(beauty[0][i], beauty[1][i], beauty[2][i]) / size;
  const floor = Math.max(mean / 100, 1e-20);
  const error = (i: number) =>
    CHANNELS.reduce<number>(
      (w, c) => Math.max(w, Math.abs(sum[c][i] - beauty[c][i]) / Math.max(beauty[c][i], floor)),
      0,
    );
  let worst = 0;
  for (let i = 0; i < size; i++) worst = Math.max(worst, error(i));
  if (worst <= limit) return [];
  const coarse = eightBit(held);
  const cut = ceilings(held, sum, error, limit);
  if (cut?.isAll) return [cut.cause, ...coarse];
  // A ceiling that is one of the scene's own is no fault: what explains all without it goes before.
  for (const counts of cut ? [null, cut.counts] : [null]) {
    const found = bestOf(experiments(held, others, sum, counts), apart(beauty, sum, counts), counts);
    if (found) return [found, ...(cut && counts ? [cut.cause] : []), ...coarse];
  }
  const isCut = cut !== null && apart(beauty, sum, cut.counts) < apart(beauty, sum) * CEILING_EXPLAINS;
  return isCut ? [cut.cause, ...coarse] : coarse;
}
