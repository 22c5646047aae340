import { type FilmLayers, LAYER, type Layer, layerInfo } from '../film';
import { type Display, displayReader, luminance } from '../image';
import { boxMeans } from './box';
import type { Plane, Size } from './filter';
import { familiesOf } from './prepare';
import { reconcile } from './reconcile';

/** A frame of a sequence: its denoised film, with what it keeps of motion and of what was hit first. */
export type Frame = FilmLayers;

/** Where the pixels of a frame lie in its neighbour, in pixels of it, and how far each may be trusted, 0 to 1. */
export interface Moved {
  x: Float32Array;
  y: Float32Array;
  alike: Float32Array;
}

/** Rounds in which it is found where something came from. */
const ROUNDS = 3;
/** Squared difference of albedo, normal and alpha at which a place counts half. */
const SURFACE = 0.02;
/** Pixels from its middle that noise and differences are averaged over, and variances by which light may differ. */
const REACH = 3;
const BY_CHANCE = 2;
/** Squared share of the light that may differ where there is no noise at all. */
const LEAST = 2e-4;

const FIRST = ['albedo', 'N', 'alpha'];

/** A film that cannot be joined to its neighbours, and what it needs. */
export class NeighbourError extends Error {}

function motionOf(frame: Frame): readonly Plane[] {
  const motion = frame.layers.get('motion');
  if (!motion) throw new NeighbourError('it keeps no motion (film.features motion), by which frames are joined');
  return ['X', 'Y'].map((c) => motion.planes[motion.channels.indexOf(c)]);
}

/** A value between pixels; what lies beyond the edge is the edge's. */
function between(plane: Plane, { width, height }: Size, x: number, y: number): number {
  const [cx, cy] = [Math.max(0, Math.min(width - 1, x)), Math.max(0, Math.min(height - 1, y))];
  const [x0, y0] = [Math.min(width - 2, Math.floor(cx)), Math.min(height - 2, Math.floor(cy))];
  const [i, j] = [cx - x0, cy - y0];
  const at = y0 * width + x0;
  return (
    (plane[at] * (1 - i) + plane[at + 1] * i) * (1 - j) + (plane[at + width] * (1 - i) + plane[at + width + 1] * i) * j
  );
}

/**
 * Where the pixels of a frame lie in the one after it, or before: by motion vectors, trusted where the same surface is seen in
 * both. What was hidden in the other is not. Throws `NeighbourError` where motion is missing.
 */
export function movedTo(own: Frame, other: Frame, isAfter: boolean): Moved {
  const size: Size = own;
  const pixels = size.width * size.height;
  const out: Moved = { x: new Float32Array(pixels), y: new Float32Array(pixels), alike: new Float32Array(pixels) };
  const [mx, my] = motionOf(own);
  const [ox, oy] = motionOf(other);
  const surfaces = FIRST.flatMap((n) => {
    const [a, b] = [own.layers.get(n)?.planes, other.layers.get(n)?.planes];
    return a && b ? a.map((p, c): [Plane, Plane] => [p as Plane, b[c] as Plane]) : [];
  });
  for (let i = 0; i < pixels; i++) {
    const [px, py] = [i % size.width, Math.floor(i / size.width)];
    let [x, y] = isAfter ? [px + mx[i], py + my[i]] : [px - mx[i], py - my[i]];
    // What is here now was where its own motion brings it here from.
    if (!isAfter)
      for (let k = 0; k < ROUNDS; k++) [x, y] = [px - between(ox, size, x, y), py - between(oy, size, x, y)];
    out.x[i] = x;
    out.y[i] = y;
    if (x < -0.5 || y < -0.5 || x > size.width - 0.5 || y > size.height - 0.5) continue;
    let apart = 0;
    for (const [a, b] of surfaces) apart += (a[i] - between(b, size, x, y)) ** 2;
    out.alike[i] = 1 / (1 + (apart / SURFACE) ** 2);
  }
  return out;
}

const brought = (plane: Plane, { x, y }: Moved, size: Size): Float32Array =>
  plane.map((_, i) => between(plane, size, x[i], y[i])) as Float32Array;

const lightOf = (planes: readonly Plane[]) =>
  planes[0].map((r, i) => luminance(r, planes[1][i], planes[2][i])) as Float32Array;

/** Weights of a moved neighbour: none where it differs by more than both frames' noise explains, as where a shadow moves. */
function weightsOf(own: readonly Plane[][], other: readonly Plane[][], alike: Float32Array, size: Size): Float32Array {
  const light = (halves: readonly Plane[][]) => halves.map(lightOf);
  const [[a, b], [p, q]] = [light(own), light(other)];
  const mean = (plane: Float32Array) => boxMeans(plane, size, REACH);
  const noise = mean(a.map((v, i) => ((v - b[i]) ** 2 + (p[i] - q[i]) ** 2) / 4));
  const apart = mean(a.map((v, i) => (v + b[i] - p[i] - q[i]) / 2));
  const level = mean(a.map((v, i) => (v + b[i]) / 2));
  return alike.map((w, i) => {
    const allowed = BY_CHANCE * noise[i] + LEAST * level[i] ** 2 + 1e-12;
    return w / (1 + (apart[i] ** 2 / allowed) ** 2);
  }) as Float32Array;
}

/** What joining a frame with those about it came to. */
export interface JoinedFigures {
  /** Mean share of the neighbours in the picture. */
  share: number;
  /** Difference to the first neighbour moved here, in percent of display white: as rendered, each denoised alone, and joined. */
  flicker: { rendered: number | null; alone: number | null; joined: number | null };
}

/** What joining made. */
export interface Joined {
  film: FilmLayers;
  /** Mean share of the neighbours in the picture. */
  share: number;
}

/**
 * A denoised frame joined with its denoised neighbours: each lead's halves by weights of their own, other parts by those of
 * the picture; families still sum to what they summed to. Throws `NeighbourError` where a neighbour lacks a layer.
 */
export function joinNeighbours(own: Frame, neighbours: readonly { frame: Frame; isAfter: boolean }[]): Joined {
  const size: Size = own;
  const names = [...own.layers.keys()];
  const groups = names.flatMap((n) => (layerInfo(n).family === 'group' ? [layerInfo(n).group!] : []));
  const leads: (string | undefined)[] = groups.length > 0 ? groups : [undefined];
  const layer = (film: Frame, name: string) => {
    const own = film.layers.get(name);
    if (!own) throw new NeighbourError(`one of them has no layer ${name}`);
    return own.planes as Float32Array[];
  };
  const moves = neighbours
    .filter(({ frame }) => frame.width === own.width && frame.height === own.height)
    .map(({ frame, isAfter }) => ({ frame, moved: movedTo(own, frame, isAfter) }));
  const layers = new Map(own.layers);
  const put = (name: string, planes: Float32Array[]) => {
    const was = own.layers.get(name);
    if (was) layers.set(name, { ...was, planes } as Layer);
  };
  /** Planes of one name, from own and all neighbours by weights. */
  const mixed = (name: string, weights: readonly Float32Array[]) =>
    layer(own, name).map((plane, c) => {
      const there = moves.map(({ frame, moved }) => brought(layer(frame, name)[c], moved, size));
      return plane.map((v, i) => {
        let [sum, w] = [v, 1];
        there.forEach((t, k) => {
          sum += weights[k][i] * t[i];
          w += weights[k][i];
        });
        return sum / w;
      }) as Float32Array;
    });
  const halvesOf = (film: Frame, lead: string | undefined) =>
    (['a', 'b'] as const).map((h) => layer(film, LAYER.half(h, lead)));
  const weigh = (lead: string | undefined) =>
    moves.map(({ frame, moved }) => {
      const other = halvesOf(frame, lead).map((half) => half.map((p) => brought(p, moved, size)));
      return weightsOf(halvesOf(own, lead), other, moved.alike, size);
    });
  const mean = (a: Float32Array[], b: Float32Array[]) =>
    a.map((p, c) => p.map((v, i) => (v + b[c][i]) / 2) as Float32Array);
  const sums = { a: [] as Float32Array[][], b: [] as Float32Array[][] };
  for (const lead of leads) {
    const weights = weigh(lead);
    const [a, b] = (['a', 'b'] as const).map((h) => mixed(LAYER.half(h, lead), weights));
    sums.a.push(a);
    sums.b.push(b);
    if (lead === undefined) continue;
    put(LAYER.half('a', lead), a);
    put(LAYER.half('b', lead), b);
    put(LAYER.group(lead), mean(a, b));
  }
  const added = (of: Float32Array[][]) =>
    [0, 1, 2].map((c) => of[0][c].map((_, i) => of.reduce((s, p) => s + p[c][i], 0)) as Float32Array);
  const [a, b] = [added(sums.a), added(sums.b)];
  put(LAYER.half('a'), a);
  put(LAYER.half('b'), b);
  put('beauty', mean(a, b));
  const weights = weigh(undefined);
  const followers = names.filter((n) => ['class', 'bounce', 'pair'].includes(layerInfo(n).family));
  for (const n of followers) put(n, mixed(n, weights));
  for (const { names: parts, whole } of familiesOf(own, followers)) {
    const made = parts.map((n) => layers.get(n)!.planes as Float32Array[]);
    (layers.get(whole)!.planes as Float32Array[]).forEach((sum, c) => {
      const taken = parts.map((n, k) => layer(own, n)[c].map((v, i) => (v - made[k][c][i]) ** 2) as Float32Array);
      reconcile(
        made.map((m) => m[c]),
        taken,
        sum,
      );
    });
  }
  let share = 0;
  for (let i = 0; i < a[0].length; i++) {
    const w = weights.reduce((s, p) => s + p[i], 0);
    share += w / (1 + w);
  }
  return { film: { ...own, layers }, share: share / Math.max(1, a[0].length) };
}

/**
 * How much a frame flickers against the one after it, in percent of display white: root mean square of what is shown of it
 * less what is shown of the moved neighbour, weighed by where motion can be trusted. Null where nothing can.
 */
export function flicker(own: Frame, after: Frame, moved: Moved, display: Display): number | null {
  const f = displayReader(display);
  const [a, b] = [own, after].map((film) => lightOf(film.layers.get('beauty')!.planes).map(f) as Float32Array);
  let [sum, weight] = [0, 0];
  for (let i = 0; i < a.length; i++) {
    sum += moved.alike[i] * (a[i] - between(b, own, moved.x[i], moved.y[i])) ** 2;
    weight += moved.alike[i];
  }
  return weight > 0 ? 100 * Math.sqrt(sum / weight) : null;
}
