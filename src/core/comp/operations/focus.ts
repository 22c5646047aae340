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
  /** Straight edges of the aperture, fewer than three for a round one, and how far it is turned. */
  blades: number;
  bladesDegrees: number;
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
export const confusion = (z: number, lens: Omit<Lens, 'blades' | 'bladesDegrees'>, height: number): number =>
  confusions(lens, height)(z);

/** The radius of what is infinitely far, the widest behind what is in focus; in pixels. */
const endless = ({ metres, fStop, focalMm, sensorMm }: Omit<Lens, 'blades' | 'bladesDegrees'>, height: number) =>
  fStop === null ? 0 : (((focalMm / 1000) ** 2 / (fStop * (metres - focalMm / 1000)) / 2) * height * 1000) / sensorMm;

/** The same for many depths. */
function confusions(
  { metres, fStop, focalMm, sensorMm }: Omit<Lens, 'blades' | 'bladesDegrees'>,
  height: number,
): (z: number) => number {
  const f = focalMm / 1000;
  if (fStop === null || metres <= f) return () => 0;
  const radius = endless({ metres, fStop, focalMm, sensorMm }, height);
  const most = MOST_RADIUS * height;
  return (z) => Math.min(most, radius * (z < Number.POSITIVE_INFINITY ? Math.abs(z - metres) / Math.max(z, 1e-6) : 1));
}

/**
 * Between which distances in metres things are sharp in a picture so high: their circle of confusion is no wider than a pixel. The far end may be infinite.
 */
export function sharpBetween(lens: Omit<Lens, 'blades' | 'bladesDegrees'>, height: number): [number, number] {
  const share = SHARP / endless(lens, height);
  if (!(share > 0 && share < Number.POSITIVE_INFINITY)) return [0, Number.POSITIVE_INFINITY];
  return [lens.metres / (1 + share), share < 1 ? lens.metres / (1 - share) : Number.POSITIVE_INFINITY];
}

/** From where to where a row of a shape goes about its middle, in pixels; null where it has none there. */
type RowOf = (k: number) => [number, number] | null;

/** A disk, and half a pixel to either side. */
const diskRows =
  (radius: number): RowOf =>
  (k) => {
    const span = Math.sqrt(Math.max(0, radius * radius - k * k)) + 0.5;
    return [-span, span];
  };

/** A polygon with so many corners on a circle, the first of them at an angle from the right, upwards, in pixels that go down. */
function polygonRows(radius: number, corners: number, turn: number): RowOf {
  const at = Array.from({ length: corners }, (_, i) => turn + (i * 2 * Math.PI) / corners);
  const points = at.map((a) => [radius * Math.cos(a), -radius * Math.sin(a)] as const);
  const [top, bottom] = [Math.min(...points.map((p) => p[1])), Math.max(...points.map((p) => p[1]))];
  return (k) => {
    if (k < top - 0.5 || k > bottom + 0.5) return null;
    const y = Math.min(bottom, Math.max(top, k));
    const across = points.flatMap(([x0, y0], i) => {
      const [x1, y1] = points[(i + 1) % corners];
      if (y < Math.min(y0, y1) || y > Math.max(y0, y1)) return [];
      return y0 === y1 ? [x0, x1] : [x0 + ((x1 - x0) * (y - y0)) / (y1 - y0)];
    });
    return [Math.min(...across) - 0.5, Math.max(...across) + 0.5];
  };
}

/** Bytes of a row of a shape, as the loops take it. */
const SHAPE_ROW = 20;

/**
 * Planes spread by a shape whose weights sum to 1, its edges in parts of pixels along rows. Beyond the planes' edge it is as what of the shape lies within, so that
 * even planes stay even.
 */
function spread(
  planes: readonly Float32Array[],
  width: number,
  height: number,
  radius: number,
  rowOf: RowOf,
): Float32Array[] {
  const size = width * height;
  const reach = Math.floor(radius);
  const pad = Math.ceil(radius) + 4;
  const stride = (width + 1 + 2 * pad) * 4;
  const own = room(size * 4, size * 4, size * 4, stride * height, (2 * reach + 1) * SHAPE_ROW);
  const [plane, out, areas, sums, shape] = own.at;
  const { loops, memory } = own;
  const floats = (at: number) => new Float32Array(memory, at, size);
  const view = new DataView(memory, shape);
  let rows = 0;
  let area = 0;
  for (let k = -reach; k <= reach; k++) {
    // Light goes out from a pixel by the shape, and so comes in by what mirrors it.
    const row = rowOf(-k);
    if (!row) continue;
    const [left, right] = [0.5 - row[1], 0.5 - row[0]];
    const at = rows++ * SHAPE_ROW;
    view.setInt32(at, k, true);
    view.setInt32(at + 4, Math.floor(left), true);
    view.setInt32(at + 8, Math.floor(right), true);
    view.setFloat32(at + 12, left - Math.floor(left), true);
    view.setFloat32(at + 16, right - Math.floor(right), true);
    area += right - left;
  }
  const lay = (into: number, x0: number, y0: number, x1: number, y1: number) => {
    if (x0 < x1 && y0 < y1) loops.gatherShape(sums, stride, pad, shape, rows, into, width, height, x0, y0, x1, y1);
  };
  floats(plane).fill(1);
  loops.addUp(plane, sums, width, height, pad, stride);
  // Only near the edges of the planes is less than the whole shape within; rows are gone through four pixels at a time.
  const [inX, inY] = [4 * Math.ceil((reach + 2) / 4), reach + 1];
  const [outX, outY] = [4 * Math.floor((width - reach - 2) / 4), height - reach - 1];
  if (inX < outX && inY < outY) {
    floats(areas).fill(area);
    lay(areas, 0, 0, width, inY);
    // What is written behind a row's end is the beginning of the next, which so comes after it.
    for (let y = inY; y < outY; y++) lay(areas, outX, y, width, y + 1);
    lay(areas, 0, inY, inX, outY);
    lay(areas, 0, outY, width, height);
  } else lay(areas, 0, 0, width, height);
  return planes.map((values) => {
    floats(plane).set(values);
    loops.addUp(plane, sums, width, height, pad, stride);
    lay(out, 0, 0, width, height);
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

/** Pixels that are blurred alike: their radius, to which side of what is in focus they are, and where. */
interface Slice {
  radius: number;
  isNear: boolean;
  box: Box;
}

/** Slices from the farthest to the nearest, and of each pixel the number of its own. */
function slicesOf(depth: Float32Array, lens: Lens, width: number, height: number): { slices: Slice[]; of: Uint8Array } {
  const signed = new Float32Array(depth.length);
  const radiusOf = confusions(lens, height);
  let most = 0;
  for (let i = 0; i < depth.length; i++) {
    const r = radiusOf(depth[i]);
    signed[i] = depth[i] < lens.metres ? r : -r;
    if (r > most) most = r;
  }
  const step = Math.max(LEAST_STEP, (most - SHARP) / MOST_SLICES);
  // Farther ones have numbers below the middle, nearer ones above.
  const middle = MOST_SLICES + 2;
  const found = Array.from({ length: 2 * middle }, () => ({ sum: 0, count: 0, x0: width, y0: height, x1: 0, y1: 0 }));
  const of = new Uint8Array(depth.length);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    for (let x = 0; x < width; ) {
      // Neighbours that are of one slice are noted together.
      const first = x;
      let n = -1;
      let sum = 0;
      for (; x < width; x++) {
        const r = signed[row + x];
        const size = r < 0 ? -r : r;
        const steps = size < SHARP ? 0 : 1 + Math.floor((size - SHARP) / step);
        const its = r < 0 ? middle - steps : middle + steps;
        if (n < 0) n = its;
        else if (its !== n) break;
        of[row + x] = n;
        sum += size;
      }
      const own = found[n];
      own.sum += sum;
      own.count += x - first;
      own.x0 = Math.min(own.x0, first);
      own.x1 = Math.max(own.x1, x);
      own.y0 = Math.min(own.y0, y);
      own.y1 = y + 1;
    }
  }
  const place = new Uint8Array(found.length);
  const slices = found.flatMap(({ sum, count, x0, y0, x1, y1 }, n): Slice[] =>
    count === 0 ? [] : [{ radius: n === middle ? 0 : sum / count, isNear: n > middle, box: { x0, y0, x1, y1 } }],
  );
  let last = 0;
  found.forEach(({ count }, n) => {
    place[n] = last;
    if (count > 0) last++;
  });
  for (let i = 0; i < of.length; i++) of[i] = place[of[i]];
  return { slices, of };
}

/** What a point spreads to: the aperture as it is behind what is in focus, and upside down before it. */
function shapeOf({ blades, bladesDegrees }: Lens, radius: number, isNear: boolean): RowOf {
  const corners = Math.round(blades);
  if (corners < 3) return diskRows(radius);
  const turn = (bladesDegrees * Math.PI) / 180 + (isNear ? Math.PI : 0);
  return polygonRows(radius, corners, turn);
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

/** The same pixel for pixel. */
function laidAsIs(
  { width, planes }: Picture,
  covered: Float32Array,
  box: Box,
  [r, g, b, a, shares]: readonly Float32Array[],
  w: number,
): void {
  const [red, green, blue, alpha] = planes;
  for (let y = box.y0; y < box.y1; y++) {
    let j = (y - box.y0) * w;
    for (let x = box.x0, i = y * width + x; x < box.x1; x++, i++, j++) {
      const share = shares[j];
      if (share === 0) continue;
      const rest = share >= 1 ? 0 : 1 - share;
      red[i] = r[j] + (rest === 0 ? 0 : red[i] * rest);
      green[i] = g[j] + (rest === 0 ? 0 : green[i] * rest);
      blue[i] = b[j] + (rest === 0 ? 0 : blue[i] * rest);
      alpha[i] = a[j] + (rest === 0 ? 0 : alpha[i] * rest);
      covered[i] = share >= 1 ? 1 : share + covered[i] * rest;
    }
  }
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
  if (times === 0) {
    laidAsIs(out, covered, box, behind, w);
    return;
  }
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
 * Of a part of a picture the light of one slice, premultiplied by whether it is of it, and that itself, which is its alpha too where all is opaque; and `known`: what nearer slices do
 * not hide.
 */
function taken(
  [red, green, blue, alpha]: Picture['planes'],
  of: Uint8Array,
  k: number,
  box: Box,
  width: number,
  isOpaque: boolean,
): { known: Float32Array; behind: Float32Array[] } {
  const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
  const plane = () => new Float32Array(w * h);
  const [known, r, g, b, share] = [plane(), plane(), plane(), plane(), plane()];
  const a = isOpaque ? share : plane();
  for (let y = 0, j = 0; y < h; y++) {
    const row = (y + box.y0) * width + box.x0;
    for (let i = row; i < row + w; i++, j++) {
      const n = of[i];
      if (n > k) continue;
      known[j] = 1;
      if (n < k) continue;
      r[j] = red[i];
      g[j] = green[i];
      b[j] = blue[i];
      a[j] = alpha[i];
      share[j] = 1;
    }
  }
  return { known, behind: isOpaque ? [r, g, b, share] : [r, g, b, a, share] };
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
  const isOpaque = planes[3].every((v) => v === 1);
  const out = blank(width, height);
  const covered = new Float32Array(width * height);
  // How far what is nearer reaches, from behind which a slice may come out.
  const nearer = slices.map((_, k) => slices.slice(k + 1).reduce((most, s) => Math.max(most, reachOf(s.radius)), 0));
  slices.forEach(({ radius, isNear, box }, k) => {
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
    const { known, behind } = taken(planes, of, k, within, width, isOpaque);
    const less = behind.map((plane) => lessened(plane, w, h, times));
    const [{ w: lw, h: lh }] = less;
    const own = less.map((l) => l.plane);
    const isNearest = k === slices.length - 1;
    const whole = isNearest ? own : filled(own, lessened(known, w, h, times).plane, lw, lh);
    const shape = shapeOf(lens, radius / side, isNear);
    const made = radius === 0 ? whole : spread(whole, lw, lh, radius / side, shape);
    laid(out, covered, within, isOpaque ? [...made, made[3]] : made, lw, lh, times);
  });
  // Behind edges nothing may have been filled so far: what lies there is all there is.
  for (let i = 0; i < covered.length; i++)
    if (covered[i] > 0 && covered[i] < 1) for (let c = 0; c < 4; c++) out.planes[c][i] /= covered[i];
  return out;
}
