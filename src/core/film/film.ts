import { PLANE_BYTES, RAY_COUNTERS, RAY_KINDS, TABLE, TABLE_DOUBLES, TILE_PIXELS, TILE_SIZE } from '../kernel';
import { type FilmSpec, filmBytes } from './spec';

/** Gives a plane of so many values, whatever they are. */
export type TakePlane = (size: number) => Float32Array<ArrayBuffer>;
const newPlane: TakePlane = (size) => new Float32Array(size);

/** Planes that are used again: what was taken since the last `giveBack` is free after it. */
export class PlaneShelf {
  private readonly free: Float32Array<ArrayBuffer>[] = [];
  private readonly out: Float32Array<ArrayBuffer>[] = [];

  readonly take: TakePlane = (size) => {
    const at = this.free.findIndex((p) => p.length === size);
    const plane = at < 0 ? new Float32Array(size) : this.free.splice(at, 1)[0];
    this.out.push(plane);
    return plane;
  };

  giveBack(): void {
    this.free.push(...this.out.splice(0));
  }
}

/**
 * All accumulated planes of a render: tile after tile, each with its planes of 16×16 float sums and its
 * float64 tables, then of each cell its samples, and those it is to have after the sweep under way. Tiles are whole so that a worker takes one in a
 * single copy. Sums are scene-linear nits × samples; nothing here is divided by a sample count.
 */
export class Film {
  readonly samples: Int32Array;
  readonly targets: Int32Array;

  constructor(
    readonly spec: FilmSpec,
    readonly buffer: SharedArrayBuffer | ArrayBuffer = new SharedArrayBuffer(filmBytes(spec)),
  ) {
    if (buffer.byteLength !== filmBytes(spec))
      throw new Error(`film of ${buffer.byteLength} bytes, expected ${filmBytes(spec)}`);
    this.samples = new Int32Array(buffer, this.tileCount * spec.tileBytes, this.tileCount);
    this.targets = new Int32Array(buffer, this.tileCount * (spec.tileBytes + 4), this.tileCount);
  }

  get tileCount(): number {
    return this.spec.tilesX * this.spec.tilesY;
  }

  /** Bytes of tile `t`. */
  record(t: number): Uint8Array {
    return new Uint8Array(this.buffer, t * this.spec.tileBytes, this.spec.tileBytes);
  }

  floats(t: number): Float32Array {
    return new Float32Array(this.buffer, t * this.spec.tileBytes, this.spec.planes.count * TILE_PIXELS);
  }

  tables(t: number): Float64Array {
    return new Float64Array(this.buffer, t * this.spec.tileBytes + this.spec.planes.count * PLANE_BYTES, TABLE_DOUBLES);
  }

  /** Place of tile `t`: film pixels, and its size cut at the film's edge. */
  place(t: number): { x: number; y: number; w: number; h: number } {
    const x = (t % this.spec.tilesX) * TILE_SIZE;
    const y = Math.floor(t / this.spec.tilesX) * TILE_SIZE;
    return {
      x,
      y,
      w: Math.min(TILE_SIZE, this.spec.region.width - x),
      h: Math.min(TILE_SIZE, this.spec.region.height - y),
    };
  }

  /** Plane `index` of one tile into a picture of the film's size, times `scale(cell samples)`. */
  private copyTile(t: number, index: number, scale: number, out: Float32Array): void {
    const { x, y, w, h } = this.place(t);
    const src = this.floats(t);
    const base = index * TILE_PIXELS;
    for (let j = 0; j < h; j++) {
      const o = (y + j) * this.spec.region.width + x;
      const s = base + j * TILE_SIZE;
      for (let i = 0; i < w; i++) out[o + i] = src[s + i] * scale;
    }
  }

  /** A plane as a picture: `mean` divides by the samples of each cell, `half` by half of them, `raw` by nothing. */
  plane(index: number, how: 'mean' | 'half' | 'raw' = 'mean', take: TakePlane = newPlane): Float32Array<ArrayBuffer> {
    const out = take(this.spec.region.width * this.spec.region.height);
    for (let t = 0; t < this.tileCount; t++) {
      const n = this.samples[t];
      this.copyTile(t, index, how === 'raw' ? 1 : n === 0 ? 0 : how === 'half' ? 2 / n : 1 / n, out);
    }
    return out;
  }

  /**
   * Mean red, green and blue of both halves. Tile by tile, all planes at once: a tile that a thread is just now
   * writing shows at most for the moment of its own copy, not with its channels from before and after.
   */
  beauty(take: TakePlane = newPlane): Float32Array<ArrayBuffer>[] {
    const { width, height } = this.spec.region;
    const out = [0, 1, 2].map(() => take(width * height).fill(0));
    for (let t = 0; t < this.tileCount; t++) {
      const n = this.samples[t];
      if (n === 0) continue;
      const scale = 1 / n;
      const { x, y, w, h } = this.place(t);
      const src = this.floats(t);
      for (let c = 0; c < 3; c++) {
        const plane = out[c];
        for (let j = 0; j < h; j++) {
          const o = (y + j) * width + x;
          const s = c * TILE_PIXELS + j * TILE_SIZE;
          for (let i = 0; i < w; i++)
            plane[o + i] = Math.fround(src[s + i] * scale) + Math.fround(src[s + 3 * TILE_PIXELS + i] * scale);
        }
      }
    }
    return out;
  }

  /** Whole-film totals of a range of table slots. */
  tableSums(from: number, count: number): Float64Array {
    const out = new Float64Array(count);
    for (let t = 0; t < this.tileCount; t++) {
      const table = this.tables(t);
      for (let i = 0; i < count; i++) out[i] += table[from + i];
    }
    return out;
  }

  /** Rays traced, by kind; shadow rays together and by light group. */
  rays(): RayCounts {
    const sums = this.tableSums(TABLE.rays, RAY_COUNTERS);
    const kinds = Object.fromEntries(RAY_KINDS.map((k, i) => [k, sums[i]])) as Record<
      (typeof RAY_KINDS)[number],
      number
    >;
    const byGroup = Object.fromEntries(this.spec.groups.map((g, i) => [g, sums[RAY_KINDS.length + i]]));
    const shadow = Object.values(byGroup).reduce((a, b) => a + b, 0);
    return {
      ...kinds,
      shadow,
      shadowByGroup: byGroup,
      total: shadow + sums.slice(0, RAY_KINDS.length).reduce((a, b) => a + b, 0),
    };
  }

  /** Samples of all pixels together. */
  sampleTotal(): number {
    let sum = 0;
    for (let t = 0; t < this.tileCount; t++) {
      const { w, h } = this.place(t);
      sum += this.samples[t] * w * h;
    }
    return sum;
  }

  /** Contributions that were no finite numbers, and so were left out. */
  invalidCount(): number {
    return this.tableSums(TABLE.invalid, 1)[0];
  }

  clampedLight(): number {
    return this.tableSums(TABLE.clamped, 1)[0];
  }
}

export interface RayCounts {
  camera: number;
  diffuse: number;
  reflection: number;
  transmission: number;
  fog: number;
  twin: number;
  lost: number;
  occlusion: number;
  shadow: number;
  shadowByGroup: Record<string, number>;
  total: number;
}
