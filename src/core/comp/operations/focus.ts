import { type Arena, inArena } from '../arena';
import type { Four } from '../loops';
import type { Picture } from '../picture';
import { fill } from './fill';
import { confusion, type Lens, type RowOf, SHARP, shapeOf } from './lens';

/** Pixels of radius up to which a slice is spread at its own size; beyond, at half of it, a quarter, an eighth. */
const MOST_SPREAD = 6;
/** Most slices to either side of what is in focus, and the least step of radius between them, in pixels. */
const MOST_SLICES = 16;
const LEAST_STEP = 0.75;
/** The number of what is in focus: farther slices have less, nearer ones more. */
const MIDDLE = MOST_SLICES + 2;
/** Bytes of what the loops tell of a slice. */
const SLICE = 32;
/** Bytes of a row of a shape, as the loops take it. */
const SHAPE_ROW = 20;

/** Planes of a part of a picture that lie in an arena, w×h floats each. */
interface Planes {
  at: readonly number[];
  w: number;
  h: number;
}

/**
 * Spreads planes by a shape whose weights sum to 1, its edges in parts of pixels along rows, in place. Beyond the planes' edge it is as what of the shape lies
 * within, so that even planes stay even.
 */
function spread(arena: Arena, { at: planes, w: width, h: height }: Planes, radius: number, rowOf: RowOf): void {
  const { loops } = arena;
  const size = width * height;
  const reach = Math.floor(radius);
  const pad = Math.ceil(radius) + 4;
  const stride = (width + 1 + 2 * pad) * 4;
  const shape = arena.cut((2 * reach + 1) * SHAPE_ROW);
  const sums = arena.cut(stride * height);
  const areas = arena.floats(size);
  const view = new DataView(arena.memory, shape);
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
  arena.view(areas, size).fill(1);
  loops.addUp(areas, sums, width, height, pad, stride);
  // Only near the edges of the planes is less than the whole shape within; rows are gone through four pixels at a time.
  const [inX, inY] = [4 * Math.ceil((reach + 2) / 4), reach + 1];
  const [outX, outY] = [4 * Math.floor((width - reach - 2) / 4), height - reach - 1];
  if (inX < outX && inY < outY) {
    arena.view(areas, size).fill(area);
    lay(areas, 0, 0, width, inY);
    // What is written behind a row's end is the beginning of the next, which so comes after it.
    for (let y = inY; y < outY; y++) lay(areas, outX, y, width, y + 1);
    lay(areas, 0, inY, inX, outY);
    lay(areas, 0, outY, width, height);
  } else lay(areas, 0, 0, width, height);
  for (const plane of planes) {
    loops.addUp(plane, sums, width, height, pad, stride);
    lay(plane, 0, 0, width, height);
    loops.over(plane, areas, size);
  }
}

/** A part of a picture, in its pixels. */
interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** Pixels that are blurred alike: their number, their radius, and where they are. */
interface Slice {
  number: number;
  radius: number;
  box: Box;
}

/** Slices from the farthest to the nearest, and where the number of each pixel's own lies (u8); null where all is sharp. */
function slicesOf(
  arena: Arena,
  depth: Float32Array,
  lens: Lens,
  width: number,
  height: number,
): { slices: Slice[]; of: number } | null {
  const { loops } = arena;
  const { endless, most } = confusion(lens, height);
  const of = arena.cut(depth.length);
  return arena.within(() => {
    const signed = arena.floats(depth.length);
    arena.view(signed, depth.length).set(depth);
    const widest = loops.confuse(signed, signed, depth.length, lens.metres, endless, most);
    if (widest < SHARP) return null;
    const told = arena.cut(2 * MIDDLE * SLICE);
    const view = new DataView(arena.memory, told, 2 * MIDDLE * SLICE);
    for (let n = 0; n < 2 * MIDDLE; n++) {
      for (let i = 0; i < SLICE; i += 4) view.setInt32(n * SLICE + i, 0, true);
      view.setInt32(n * SLICE + 12, width, true);
      view.setInt32(n * SLICE + 16, height, true);
    }
    loops.slice(signed, of, told, width, height, Math.max(LEAST_STEP, (widest - SHARP) / MOST_SLICES), MIDDLE);
    const slices = Array.from({ length: 2 * MIDDLE }, (_, number): Slice | null => {
      const at = number * SLICE;
      const count = view.getInt32(at + 8, true);
      const [x0, y0, x1, y1] = [12, 16, 20, 24].map((by) => view.getInt32(at + by, true));
      const radius = number === MIDDLE ? 0 : view.getFloat64(at, true) / count;
      return count === 0 ? null : { number, radius, box: { x0, y0, x1, y1 } };
    });
    return { slices: slices.filter((s) => s !== null), of };
  });
}

/** How often a slice is halved before it is spread. */
function halvings(radius: number): number {
  let times = 0;
  while (radius / (1 << times) > MOST_SPREAD) times++;
  return times;
}

/** How far a slice may reach, with the cells that it is spread over. */
const reachOf = (radius: number): number => Math.ceil(radius) + (2 << halvings(radius));

/** Planes halved so many times: means of what lies in each cell. */
function lessened(arena: Arena, planes: Planes, times: number): Planes {
  if (times === 0) return planes;
  const { loops } = arena;
  let { at, w, h } = planes;
  for (let k = 0; k < times; k++) {
    const [from, fw, fh] = [at, w, h];
    [w, h] = [(fw + 1) >> 1, (fh + 1) >> 1];
    at = from.map((plane) => {
      const out = arena.floats(w * h);
      loops.pull(plane, fw, fh, out);
      return out;
    });
  }
  const side = 1 << times;
  // The last cells of a row and of a column may have less in them.
  const [lastX, lastY] = [side / (planes.w - (w - 1) * side), side / (planes.h - (h - 1) * side)];
  for (const plane of at) {
    loops.weigh(plane, 1 / (side * side), w * h);
    const values = arena.view(plane, w * h);
    if (lastX > 1) for (let i = w - 1; i < values.length; i += w) values[i] *= lastX;
    if (lastY > 1) for (let i = values.length - w; i < values.length; i++) values[i] *= lastY;
  }
  return { at, w, h };
}

/** A picture that is focused, in an arena: what it is, and what has been made of it so far, from the farthest on. */
class Focused {
  private readonly planes: Four;
  private readonly out: Four;
  /** How much of each pixel anything lies on. */
  private readonly covered: number;
  private readonly isOpaque: boolean;

  constructor(
    private readonly arena: Arena,
    private readonly picture: Picture,
    private readonly of: number,
  ) {
    const size = picture.width * picture.height;
    const four = (): Four => [arena.floats(size), arena.floats(size), arena.floats(size), arena.floats(size)];
    this.planes = four();
    this.out = four();
    this.covered = arena.floats(size);
    picture.planes.forEach((plane, c) => {
      arena.view(this.planes[c], size).set(plane);
    });
    for (const at of [...this.out, this.covered]) arena.view(at, size).fill(0);
    this.isOpaque = picture.planes[3].every((v) => v === 1);
  }

  /** From pixel i on. */
  private from(planes: Four, i: number): Four {
    return [planes[0] + i * 4, planes[1] + i * 4, planes[2] + i * 4, planes[3] + i * 4];
  }

  /**
   * Of a part of the picture the light of one slice, premultiplied by whether it is of it, and that itself, which is its alpha too where all is opaque; and what
   * nearer slices do not hide.
   */
  private taken(number: number, box: Box): { planes: Planes; known: Planes } {
    const { arena } = this;
    const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
    const plane = () => arena.floats(w * h);
    const [known, r, g, b, share] = [plane(), plane(), plane(), plane(), plane()];
    const a = this.isOpaque ? share : plane();
    for (let y = 0; y < h; y++) {
      const i = (y + box.y0) * this.picture.width + box.x0;
      const j = y * w * 4;
      const into = this.from([r, g, b, a], y * w);
      arena.loops.take(...this.from(this.planes, i), this.of + i, number, w, ...into, share + j, known + j);
    }
    const at = this.isOpaque ? [r, g, b, share] : [r, g, b, share, a];
    return { planes: { at, w, h }, known: { at: [known], w, h } };
  }

  /** Lays what was spread over what lies farther. */
  private laid(box: Box, { at, w, h }: Planes, times: number): void {
    const { arena } = this;
    const [r, g, b, share] = at;
    const a = at[4] ?? share;
    const n = box.x1 - box.x0;
    const rows = times > 0 ? at.map(() => arena.floats(n)) : [];
    const row = times > 0 ? arena.floats(w) : 0;
    for (let y = box.y0; y < box.y1; y++) {
      const i = y * this.picture.width + box.x0;
      const j = (y - box.y0) * w;
      let by: Four = this.from([r, g, b, a], j);
      let its = share + j * 4;
      if (times > 0) {
        at.forEach((plane, c) => {
          arena.loops.enlarge(plane, w, h, times, y - box.y0, n, row, rows[c]);
        });
        by = [rows[0], rows[1], rows[2], rows[4] ?? rows[3]];
        its = rows[3];
      }
      arena.loops.lay(...this.from(this.out, i), this.covered + i * 4, n, ...by, its);
    }
  }

  /** Lays a slice over what lies farther; `nearer`: how far what is nearer reaches, from behind which it may come out. */
  add({ number, radius, box }: Slice, lens: Lens, nearer: number): void {
    const { arena } = this;
    const { width, height } = this.picture;
    const times = halvings(radius);
    const side = 1 << times;
    const room = reachOf(radius) + nearer;
    const within: Box = {
      x0: Math.max(0, box.x0 - room),
      y0: Math.max(0, box.y0 - room),
      x1: Math.min(width, box.x1 + room),
      y1: Math.min(height, box.y1 + room),
    };
    arena.within(() => {
      // All that is not hidden by nearer things, as if those were not there: its light, and how much of it is this slice.
      const { planes, known } = this.taken(number, within);
      const less = lessened(arena, planes, times);
      const isNearest = nearer === 0;
      if (!isNearest) fill(arena, less.at, lessened(arena, known, times).at[0], less.w, less.h);
      if (radius > 0) spread(arena, less, radius / side, shapeOf(lens, radius / side, number > MIDDLE));
      this.laid(within, less, times);
    });
  }

  /** The picture with all its slices. */
  made(): Picture {
    const { width, height } = this.picture;
    const size = width * height;
    // Behind edges nothing may have been filled so far: what lies there is all there is.
    this.arena.loops.settle(...this.out, this.covered, size);
    const plane = (c: 0 | 1 | 2 | 3) => this.arena.view(this.out[c], size).slice();
    return { width, height, planes: [plane(0), plane(1), plane(2), plane(3)] };
  }
}

/**
 * A picture as a lens sees it that is focused at a distance, by depth in metres: every pixel's light is spread over its circle of confusion, nearer things
 * over farther ones. What stands behind the edge of something nearer is filled from about it, so that no edge draws a halo; what is in focus stays
 * bit for bit where nothing nearer spreads over it. Light is kept, but for what comes out from behind edges. Wide disks are spread over cells of several
 * pixels, a sixth of their radius or less.
 */
export const focus = (p: Picture, lens: Lens, depth: Float32Array): Picture =>
  inArena((arena) => {
    const cut = slicesOf(arena, depth, lens, p.width, p.height);
    if (!cut) return p;
    const focused = new Focused(arena, p, cut.of);
    const { slices } = cut;
    slices.forEach((slice, k) => {
      focused.add(
        slice,
        lens,
        slices.slice(k + 1).reduce((most, s) => Math.max(most, reachOf(s.radius)), 0),
      );
    });
    return focused.made();
  });
