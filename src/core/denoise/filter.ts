import {
  BLOCK,
  GUIDE_COUNT,
  MARGIN,
  MEMORY_PAGES,
  PHASE,
  PHASED_ROW,
  PLACES,
  SIDE,
  SURFACE_GUIDES,
  WIDTH,
} from './layout';

/** A picture's plane, `width × height` values row by row from the top. */
export type Plane = Float32Array;
export interface Size {
  width: number;
  height: number;
}

interface FilterExports {
  compare(across: number, down: number, soft: number): void;
  weigh(across: number, down: number, k: number, floor: number): void;
  fit(across: number, down: number, channels: number, ridge: number, all: number): void;
}

/** Differences of so many standard deviations still count as alike. */
const BANDWIDTH = 0.7;
/** Squared difference of guides up to which surfaces are much the same. */
const SOFT = 1;
/** Variance below which nothing is told apart, of light in units of display white. */
const LEAST_VARIANCE = 1e-6;
/** Share of the weight that keeps guides out of a fit which hardly vary. */
const RIDGE = 1e-3;

/** Where columns of a square with its margins lie in a row whose blocks' first, second and third columns are apart. */
const COLUMNS = Uint16Array.from({ length: WIDTH }, (_, x) => (x % BLOCK) * PHASE + Math.floor(x / BLOCK));

/**
 * The inner loops of the filter over one square of `SIDE` pixels, with memory of its own. Colours are linear, in units of
 * display white. Nothing depends on what was filtered before.
 */
export class SquareFilter {
  private readonly memory: WebAssembly.Memory;
  private readonly exports: FilterExports;
  private across = 0;
  private down = 0;
  private x0 = 0;
  private y0 = 0;
  private size: Size = { width: 0, height: 0 };

  constructor(module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: MEMORY_PAGES });
    const env = { memory: this.memory, abort: () => {} };
    this.exports = new WebAssembly.Instance(module, { env }).exports as unknown as FilterExports;
  }

  private plane(place: number, index: number): Float32Array {
    return new Float32Array(this.memory.buffer, place + index * WIDTH * WIDTH * 4, WIDTH * WIDTH);
  }

  private phased(place: number, index: number): Float32Array {
    const size = WIDTH * PHASED_ROW;
    return new Float32Array(this.memory.buffer, place + index * size * 4, size);
  }

  /** Takes the square whose top left pixel is (x0, y0), which may lie before the picture, and its guides. */
  begin(x0: number, y0: number, size: Size, guides: readonly Plane[], guideVariance: Plane): void {
    this.x0 = x0;
    this.y0 = y0;
    this.size = size;
    // One block before and one after, for what they spread into the square.
    this.across = Math.ceil(Math.min(SIDE, size.width - x0) / BLOCK) + 2;
    this.down = Math.ceil(Math.min(SIDE, size.height - y0) / BLOCK) + 2;
    const mask = this.phased(PLACES.MASK, 0);
    for (let j = 0; j < WIDTH; j++) {
      const y = y0 + j - MARGIN;
      for (let i = 0; i < WIDTH; i++) {
        const x = x0 + i - MARGIN;
        mask[j * PHASED_ROW + COLUMNS[i]] = x >= 0 && y >= 0 && x < size.width && y < size.height ? 1 : 0;
      }
    }
    for (let k = 0; k < GUIDE_COUNT; k++) this.put(PLACES.GUIDES, k, guides[k]);
    for (let k = 0; k < SURFACE_GUIDES; k++) this.putPhased(PLACES.SURFACES, k, guides[k]);
    this.putPhased(PLACES.GUIDE_VARIANCE, 0, guideVariance);
    this.exports.compare(this.across, this.down, SOFT);
  }

  /** Copies the square of a plane with its margins; beyond the picture its edge goes on. */
  private put(place: number, index: number, from: Plane): void {
    const { width, height } = this.size;
    const to = this.plane(place, index);
    const [left, right] = [Math.max(0, MARGIN - this.x0), Math.min(WIDTH, width - this.x0 + MARGIN)];
    for (let j = 0; j < WIDTH; j++) {
      const row = Math.min(height - 1, Math.max(0, this.y0 + j - MARGIN)) * width;
      const start = row + this.x0 - MARGIN;
      to.fill(from[row], j * WIDTH, j * WIDTH + left);
      to.set(from.subarray(start + left, start + right), j * WIDTH + left);
      to.fill(from[row + width - 1], j * WIDTH + right, (j + 1) * WIDTH);
    }
  }

  /** The same, every third column side by side. */
  private putPhased(place: number, index: number, from: Plane): void {
    const { width, height } = this.size;
    const to = this.phased(place, index);
    for (let j = 0; j < WIDTH; j++) {
      const row = Math.min(height - 1, Math.max(0, this.y0 + j - MARGIN)) * width;
      const at = j * PHASED_ROW;
      const left = this.x0 - MARGIN;
      for (let i = 0; i < WIDTH; i++) to[at + COLUMNS[i]] = from[row + Math.min(width - 1, Math.max(0, left + i))];
    }
  }

  /** Weighs windows by three planes of colour and the variance of all three together. */
  weigh(steer: readonly Plane[], variance: Plane): void {
    steer.forEach((p, c) => {
      this.putPhased(PLACES.STEER, c, p);
    });
    this.putPhased(PLACES.VARIANCE, 0, variance);
    this.exports.weigh(this.across, this.down, BANDWIDTH, LEAST_VARIANCE);
  }

  /**
   * Filters planes by the weights there are. Returns squares of `SIDE²` values each, valid until the next call: of every
   * plane by whole windows; with `all` then by their inner parts, then as weighted means alone.
   */
  fit(planes: readonly Plane[], all: boolean): Float32Array[] {
    planes.forEach((p, c) => {
      this.put(PLACES.SOURCE, c, p);
    });
    this.exports.fit(this.across, this.down, planes.length, RIDGE, all ? 1 : 0);
    return Array.from(
      { length: planes.length * (all ? 3 : 1) },
      (_, i) => new Float32Array(this.memory.buffer, PLACES.OUT + i * SIDE * SIDE * 4, SIDE * SIDE),
    );
  }

  /** 1 where the square lies in the picture. */
  mask(): Float32Array {
    const out = new Float32Array(SIDE * SIDE);
    const { width, height } = this.size;
    for (let j = Math.max(0, -this.y0); j < Math.min(SIDE, height - this.y0); j++)
      out.fill(1, j * SIDE + Math.max(0, -this.x0), j * SIDE + Math.min(SIDE, width - this.x0));
    return out;
  }

  /** The square of a plane without margins, as it is. */
  cut(from: Plane): Float32Array {
    const out = new Float32Array(SIDE * SIDE);
    const { width, height } = this.size;
    const [left, right] = [Math.max(0, -this.x0), Math.min(SIDE, width - this.x0)];
    for (let j = Math.max(0, -this.y0); j < Math.min(SIDE, height - this.y0); j++) {
      const start = (this.y0 + j) * width + this.x0;
      out.set(from.subarray(start + left, start + right), j * SIDE + left);
    }
    return out;
  }
}
