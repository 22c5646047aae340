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
 * A plane spread by a disk of a radius in pixels whose weights sum to 1, edges of the disk in parts of pixels along rows. Beyond the picture's edge
 * it is as what of the disk lies within, so that even planes stay even.
 */
function spread(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const reach = Math.floor(radius);
  const spans = Array.from(
    { length: 2 * reach + 1 },
    (_, k) => Math.sqrt(Math.max(0, radius * radius - (k - reach) ** 2)) + 0.5,
  );
  // Sums along each row up to every edge between pixels, so that a span is a difference of two.
  const sums = new Float64Array((width + 1) * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) sums[y * (width + 1) + x + 1] = sums[y * (width + 1) + x] + plane[y * width + x];
  const out = new Float32Array(plane.length);
  const areas = new Float32Array(plane.length);
  const held = (at: number) => Math.min(width, Math.max(0, at));
  const upTo = (row: number, at: number) => {
    const i = Math.min(width - 1, Math.floor(at));
    const sum = sums[row + i];
    return sum + (at - i) * (sums[row + i + 1] - sum);
  };
  for (let y = 0; y < height; y++)
    for (let k = -reach; k <= reach; k++) {
      const from = y + k;
      if (from < 0 || from >= height) continue;
      const half = spans[k + reach];
      const row = from * (width + 1);
      for (let x = 0; x < width; x++) {
        const [left, right] = [held(x + 0.5 - half), held(x + 0.5 + half)];
        out[y * width + x] += upTo(row, right) - upTo(row, left);
        areas[y * width + x] += right - left;
      }
    }
  for (let i = 0; i < out.length; i++) out[i] /= areas[i];
  return out;
}

/** Pixels that are blurred alike, from the farthest to the nearest: the radius of each such slice, and of each pixel the number of its own. */
function slicesOf(depth: Float32Array, lens: Lens, height: number): { radii: number[]; of: Int16Array } {
  const signed = depth.map((z) => confusion(z, lens, height) * (z < lens.metres ? 1 : -1));
  const most = signed.reduce((m, r) => Math.max(m, Math.abs(r)), 0);
  const step = Math.max(LEAST_STEP, (most - SHARP) / MOST_SLICES);
  const numbers = signed.map((r) => {
    const size = Math.abs(r);
    return size < SHARP ? 0 : Math.sign(r) * (1 + Math.floor((size - SHARP) / step));
  });
  const used = [...new Set(numbers)].sort((a, b) => a - b);
  const place = new Map(used.map((n, i) => [n, i]));
  const sums = used.map(() => ({ radius: 0, count: 0 }));
  const of = new Int16Array(depth.length);
  numbers.forEach((n, i) => {
    of[i] = place.get(n)!;
    sums[of[i]].radius += Math.abs(signed[i]);
    sums[of[i]].count++;
  });
  return { radii: used.map((n, i) => (n === 0 ? 0 : sums[i].radius / sums[i].count)), of };
}

/**
 * A picture as a lens sees it that is focused at a distance, by depth in metres: every pixel's light is spread over its circle of confusion, nearer things
 * over farther ones. What stands behind the edge of something nearer is filled from about it, so that no edge draws a halo; what is in focus stays
 * bit for bit where nothing nearer spreads over it. Light is kept, but for what comes out from behind edges.
 */
export function focus(p: Picture, lens: Lens, depth: Float32Array): Picture {
  const { width, height, planes } = p;
  const { radii, of } = slicesOf(depth, lens, height);
  if (radii.every((r) => r === 0)) return p;
  const size = width * height;
  let out = blank(width, height);
  radii.forEach((radius, k) => {
    // All that is not hidden by nearer things, as if those were not there: its light, and how much of it is this slice.
    const known = new Float32Array(size);
    const own = new Float32Array(size);
    for (let i = 0; i < size; i++) {
      known[i] = of[i] <= k ? 1 : 0;
      own[i] = of[i] === k ? 1 : 0;
    }
    const light = planes.map((plane) => plane.map((v, i) => v * own[i]));
    const isWhole = k === radii.length - 1;
    const behind = isWhole ? [...light, own] : filled([...light, own], known, width, height);
    const [r, g, b, a, share] = behind.map((plane) => (radius === 0 ? plane : spread(plane, width, height, radius)));
    const next = blank(width, height);
    [r, g, b, a].forEach((plane, c) => {
      const [below, o] = [out.planes[c], next.planes[c]];
      for (let i = 0; i < size; i++) o[i] = share[i] >= 1 ? plane[i] : plane[i] + below[i] * (1 - share[i]);
    });
    out = next;
  });
  return out;
}
