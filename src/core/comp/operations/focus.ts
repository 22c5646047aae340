import { room } from '../loops';
import { blank, type Picture } from '../picture';
import { filled } from './fill';

/** A thin lens: focused at `metres`, of `focalMm` at f/`fStop`, before a sensor so high. */
export interface Lens {
  metres: number;
  /** Null: everything is sharp. */
  fStop: number | null;
  focalMm: number;
  sensorMm: number;
}

/** Most pixels that a disk's radius may have, in parts of the height. */
const MOST_RADIUS = 0.12;
/** Below this many pixels of radius a thing is sharp, and is left as it is. */
const SHARP = 0.5;
/** Pixels of radius up to which a slice is spread at its own size; beyond, at half of it, a quarter, an eighth. */
const MOST_SPREAD = 6;
/** Most slices to either side of what is in focus, and the least step of radius between them, in pixels. */
const MOST_SLICES = 16;
const LEAST_STEP = 0.75;

/**
 * Radius of the circle of confusion in pixels of a picture so high, at a depth in metres; infinity is a depth. c = f²·|z − z₀| / (N·z·(z₀ − f)), its
 * diameter on the sensor.
 */
export function confusion(z: number, { metres, fStop, focalMm, sensorMm }: Lens, height: number): number {
  if (fStop === null) return 0;
  const f = focalMm / 1000;
  if (metres <= f) return 0;
  const share = Number.isFinite(z) ? Math.abs(z - metres) / Math.max(z, 1e-6) : 1;
  const diameter = ((f * f) / (fStop * (metres - f))) * share;
  return Math.min(MOST_RADIUS * height, ((diameter / 2) * height * 1000) / sensorMm);
}

/**
 * Planes spread by a disk of a radius in pixels whose weights sum to 1, edges of the disk in parts of pixels along rows. Beyond the planes' edge
 * it is as what of the disk lies within, so that even planes stay even.
 */
function spread(planes: readonly Float32Array[], width: number, height: number, radius: number): Float32Array[] {
  const size = width * height;
  const reach = Math.floor(radius);
  const sumBytes = (width + 1) * height * 8;
  const own = room(size * 4, size * 4, size * 4, sumBytes, sumBytes, width * 4, width * 4, width * 8, width * 8);
  const [plane, out, areas, sums, places, from, to, fromPart, toPart] = own.at;
  const { loops, memory } = own;
  const floats = (at: number) => new Float32Array(memory, at, size);
  /** The disk, row by row, over sums along rows. */
  const lay = (of: number, into: number) => {
    floats(into).fill(0);
    for (let k = -reach; k <= reach; k++) {
      const span = Math.sqrt(Math.max(0, radius * radius - k * k)) + 0.5;
      ends(span);
      loops.addRow(of, into, width, height, k, from, fromPart, to, toPart);
    }
  };
  const [lefts, rights] = [new Uint32Array(memory, from, width), new Uint32Array(memory, to, width)];
  const [leftParts, rightParts] = [new Float64Array(memory, fromPart, width), new Float64Array(memory, toPart, width)];
  const ends = (span: number) => {
    for (let x = 0; x < width; x++) {
      const [left, right] = [Math.max(0, x + 0.5 - span), Math.min(width, x + 0.5 + span)];
      lefts[x] = Math.min(width - 1, Math.floor(left));
      leftParts[x] = left - lefts[x];
      rights[x] = Math.min(width - 1, Math.floor(right));
      rightParts[x] = right - rights[x];
    }
  };
  floats(plane).fill(1);
  loops.addUp(plane, places, width, height);
  lay(places, areas);
  return planes.map((values) => {
    floats(plane).set(values);
    loops.addUp(plane, sums, width, height);
    lay(sums, out);
    loops.over(out, areas, size);
    return floats(out).slice();
  });
}

/** A part of a picture, in its pixels. */
interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** Pixels that are blurred alike: their radius, and where they are. */
interface Slice {
  radius: number;
  box: Box;
}

/** Slices from the farthest to the nearest, and of each pixel the number of its own. */
function slicesOf(depth: Float32Array, lens: Lens, width: number, height: number): { slices: Slice[]; of: Int16Array } {
  const signed = new Float32Array(depth.length);
  let most = 0;
  for (let i = 0; i < depth.length; i++) {
    const r = confusion(depth[i], lens, height);
    signed[i] = depth[i] < lens.metres ? r : -r;
    most = Math.max(most, r);
  }
  const step = Math.max(LEAST_STEP, (most - SHARP) / MOST_SLICES);
  const found = new Map<number, { sum: number; count: number; box: Box }>();
  const numbers = new Int16Array(depth.length);
  for (let i = 0; i < depth.length; i++) {
    const size = Math.abs(signed[i]);
    const n = size < SHARP ? 0 : Math.sign(signed[i]) * (1 + Math.floor((size - SHARP) / step));
    numbers[i] = n;
    const [x, y] = [i % width, Math.floor(i / width)];
    let own = found.get(n);
    if (!own) {
      own = { sum: 0, count: 0, box: { x0: x, y0: y, x1: x + 1, y1: y + 1 } };
      found.set(n, own);
    }
    own.sum += size;
    own.count++;
    const { box } = own;
    if (x < box.x0) box.x0 = x;
    if (x >= box.x1) box.x1 = x + 1;
    if (y >= box.y1) box.y1 = y + 1;
  }
  const used = [...found.keys()].sort((a, b) => a - b);
  const place = new Map(used.map((n, i) => [n, i]));
  const slices = used.map((n) => {
    const { sum, count, box } = found.get(n)!;
    return { radius: n === 0 ? 0 : sum / count, box };
  });
  for (let i = 0; i < numbers.length; i++) numbers[i] = place.get(numbers[i])!;
  return { slices, of: numbers };
}

/** How often a slice is halved before it is spread. */
function halvings(radius: number): number {
  let times = 0;
  while (radius / (1 << times) > MOST_SPREAD) times++;
  return times;
}

/** How far a slice may reach, with the cells that it is spread over. */
const reachOf = (radius: number): number => Math.ceil(radius) + (2 << halvings(radius));

/** A plane of a box halved so many times: means of what of the picture lies in each cell. */
function lessened(
  plane: Float32Array,
  width: number,
  height: number,
  times: number,
): { plane: Float32Array; w: number; h: number } {
  if (times === 0) return { plane, w: width, h: height };
  const side = 1 << times;
  const [w, h] = [Math.ceil(width / side), Math.ceil(height / side)];
  const out = new Float32Array(w * h);
  for (let y = 0; y < height; y++) {
    const [from, to] = [y * width, (y >> times) * w];
    for (let x = 0; x < width; x++) out[to + (x >> times)] += plane[from + x];
  }
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      out[y * w + x] /= (Math.min(width, (x + 1) * side) - x * side) * (Math.min(height, (y + 1) * side) - y * side);
  return { plane: out, w, h };
}

/** Lays what was spread over what lies farther, in a box: evenly between the cells that it is of. `covered`: how much of each pixel anything lies on. */
function laid(
  out: Picture,
  covered: Float32Array,
  box: Box,
  behind: readonly Float32Array[],
  w: number,
  h: number,
  times: number,
): void {
  const { width, planes } = out;
  const side = 1 << times;
  const values = new Float64Array(5);
  for (let y = box.y0; y < box.y1; y++) {
    const v = Math.min(h - 1, Math.max(0, (y - box.y0 + 0.5) / side - 0.5));
    const [v0, t] = [Math.floor(v), v - Math.floor(v)];
    const [top, low] = [v0 * w, Math.min(h - 1, v0 + 1) * w];
    for (let x = box.x0; x < box.x1; x++) {
      const u = Math.min(w - 1, Math.max(0, (x - box.x0 + 0.5) / side - 0.5));
      const [u0, s] = [Math.floor(u), u - Math.floor(u)];
      const u1 = Math.min(w - 1, u0 + 1);
      for (let c = 0; c < 5; c++) {
        const plane = behind[c];
        const a = plane[top + u0] + s * (plane[top + u1] - plane[top + u0]);
        const b = plane[low + u0] + s * (plane[low + u1] - plane[low + u0]);
        values[c] = a + t * (b - a);
      }
      const share = values[4];
      if (share === 0) continue;
      const i = y * width + x;
      for (let c = 0; c < 4; c++) planes[c][i] = share >= 1 ? values[c] : values[c] + planes[c][i] * (1 - share);
      covered[i] = share >= 1 ? 1 : share + covered[i] * (1 - share);
    }
  }
}

/**
 * A picture as a lens sees it that is focused at a distance, by depth in metres: every pixel's light is spread over its circle of confusion, nearer things
 * over farther ones. What stands behind the edge of something nearer is filled from about it, so that no edge draws a halo; what is in focus stays
 * bit for bit where nothing nearer spreads over it. Light is kept, but for what comes out from behind edges. Wide disks are spread over cells of several
 * pixels, a sixth of their radius or less.
 */
export function focus(p: Picture, lens: Lens, depth: Float32Array): Picture {
  const { width, height, planes } = p;
  const { slices, of } = slicesOf(depth, lens, width, height);
  if (slices.every((s) => s.radius === 0)) return p;
  const out = blank(width, height);
  const covered = new Float32Array(width * height);
  // How far what is nearer reaches, from behind which a slice may come out.
  const nearer = slices.map((_, k) => slices.slice(k + 1).reduce((most, s) => Math.max(most, reachOf(s.radius)), 0));
  slices.forEach(({ radius, box }, k) => {
    const times = halvings(radius);
    const side = 1 << times;
    const room = reachOf(radius) + nearer[k];
    const within: Box = {
      x0: Math.max(0, box.x0 - room),
      y0: Math.max(0, box.y0 - room),
      x1: Math.min(width, box.x1 + room),
      y1: Math.min(height, box.y1 + room),
    };
    const [w, h] = [within.x1 - within.x0, within.y1 - within.y0];
    // All that is not hidden by nearer things, as if those were not there: its light, and how much of it is this slice.
    const known = new Float32Array(w * h);
    const behind = [0, 1, 2, 3, 4].map(() => new Float32Array(w * h));
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const [i, j] = [(y + within.y0) * width + x + within.x0, y * w + x];
        if (of[i] <= k) known[j] = 1;
        if (of[i] !== k) continue;
        for (let c = 0; c < 4; c++) behind[c][j] = planes[c][i];
        behind[4][j] = 1;
      }
    const less = behind.map((plane) => lessened(plane, w, h, times));
    const [{ w: lw, h: lh }] = less;
    const own = less.map((l) => l.plane);
    const isNearest = k === slices.length - 1;
    const whole = isNearest ? own : filled(own, lessened(known, w, h, times).plane, lw, lh);
    laid(out, covered, within, radius === 0 ? whole : spread(whole, lw, lh, radius / side), lw, lh, times);
  });
  // Behind edges nothing may have been filled so far: what lies there is all there is.
  for (let i = 0; i < covered.length; i++)
    if (covered[i] > 0 && covered[i] < 1) for (let c = 0; c < 4; c++) out.planes[c][i] /= covered[i];
  return out;
}
