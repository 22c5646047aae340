import { type FilmLayers, LAYER } from '../film';
import { luminance } from '../image';
import { boxMeans } from './box';
import type { Plane } from './filter';
import { MEMORY_PAGES } from './layout';

/** Steps of the passes, in pixels, and the rim that they reach into. */
const STEPS = [1, 2, 5];
const RIM = 8;
/** What a pixel shows of the mean about it at most. */
const MOST_ABOVE = 3;
/** What albedo and closeness count for beside the normal, and metres that are as good as none. */
const [ALBEDO, NEAR] = [3, 4];
const FAR = 1e6;
const START = 1024;

interface QuickExports {
  quick(
    step: number,
    width: number,
    rows: number,
    rim: number,
    from: number,
    to: number,
    guides: number,
    count: number,
    plane: number,
  ): void;
}

/** Layers that it goes by, as far as a film has them, beside the beauty. */
export const QUICK_LAYERS: readonly string[] = [LAYER.half('a'), LAYER.half('b'), 'albedo', 'N', 'depth'];

/**
 * Smooths a picture quickly, for looking at it while it renders: by its own noise and what was hit first. Its light is not
 * kept, since what is far above all about it is cut: it is for no figure.
 */
export class QuickFilter {
  private readonly memory = new WebAssembly.Memory({ initial: MEMORY_PAGES });
  private readonly exports: QuickExports;

  constructor(module: WebAssembly.Module) {
    const env = { memory: this.memory, abort: () => {} };
    this.exports = new WebAssembly.Instance(module, { env }).exports as unknown as QuickExports;
  }

  /** The beauty smoothed, linear; null where the film has no halves. */
  smooth({ width, height, layers }: FilmLayers): Float32Array<ArrayBuffer>[] | null {
    const [a, b] = [layers.get(LAYER.half('a')), layers.get(LAYER.half('b'))];
    const beauty = layers.get('beauty');
    if (!a || !b || !beauty) return null;
    const size = { width, height };
    const across = Math.ceil(width / 4) * 4 + 2 * RIM;
    const rows = height + 2 * RIM;
    const plane = across * rows * 4;
    const guides = guidesOf(layers);
    const bytes = START + plane * (8 + guides.length) + 64;
    const more = Math.ceil(bytes / 65536) - this.memory.buffer.byteLength / 65536;
    if (more > 0) this.memory.grow(more);
    const at = (k: number) => new Float32Array(this.memory.buffer, START + k * plane, across * rows);
    const put = (k: number, from: Plane) => {
      const to = at(k);
      for (let y = 0; y < height; y++) to.set(from.subarray(y * width, (y + 1) * width), (y + RIM) * across + RIM);
      rim(to, width, height, across);
    };
    const light = lightOf(beauty.planes);
    const noise = new Float32Array(light.length);
    const [of, other] = [lightOf(a.planes), lightOf(b.planes)];
    for (let i = 0; i < noise.length; i++) noise[i] = (of[i] - other[i]) ** 2 / 4;
    cutPeaks(beauty.planes, light, size).forEach((p, c) => {
      put(c, p);
    });
    put(3, boxMeans(noise, size, 1));
    guides.forEach((g, k) => {
      put(8 + k, g);
    });
    STEPS.forEach((step, n) => {
      const [from, to] = n % 2 === 0 ? [0, 4] : [4, 0];
      const address = (k: number) => START + k * plane;
      this.exports.quick(step, across, rows, RIM, address(from), address(to), address(8), guides.length, plane);
      for (let c = 0; c < 4; c++) rim(at(to + c), width, height, across);
    });
    const last = STEPS.length % 2 === 0 ? 0 : 4;
    return [0, 1, 2].map((c) => {
      const from = at(last + c);
      const out = new Float32Array(width * height);
      for (let y = 0; y < height; y++) {
        const start = (y + RIM) * across + RIM;
        out.set(from.subarray(start, start + width), y * width);
      }
      return out;
    });
  }
}

/** Goes on with a picture's edge over its rim. */
function rim(plane: Float32Array, width: number, height: number, across: number): void {
  for (let y = RIM; y < RIM + height; y++) {
    const row = y * across;
    plane.fill(plane[row + RIM], row, row + RIM);
    plane.fill(plane[row + RIM + width - 1], row + RIM + width, row + across);
  }
  for (let y = 0; y < RIM; y++) {
    plane.copyWithin(y * across, RIM * across, (RIM + 1) * across);
    plane.copyWithin((RIM + height + y) * across, (RIM + height - 1) * across, (RIM + height) * across);
  }
}

function lightOf([r, g, b]: readonly Plane[]): Float32Array {
  const out = new Float32Array(r.length);
  for (let i = 0; i < out.length; i++) out[i] = luminance(r[i], g[i], b[i]);
  return out;
}

/** Colours with no pixel far above the mean of those about it. */
function cutPeaks(
  planes: readonly Plane[],
  light: Float32Array,
  size: { width: number; height: number },
): Float32Array[] {
  const mean = boxMeans(light, size, 2);
  const out = planes.slice(0, 3).map((p) => p.slice());
  for (let i = 0; i < light.length; i++) {
    // The mean of the 24 others.
    const most = (MOST_ABOVE * (mean[i] * 25 - light[i])) / 24;
    if (light[i] > most) for (const p of out) p[i] *= most / light[i];
  }
  return out;
}

/** How light surfaces are, which way they face and how near they are, each about 1 over an edge. */
function guidesOf(layers: FilmLayers['layers']): Float32Array[] {
  const out: Float32Array[] = [];
  const albedo = layers.get('albedo')?.planes;
  if (albedo) {
    const light = lightOf(albedo);
    for (let i = 0; i < light.length; i++) light[i] *= ALBEDO;
    out.push(light);
  }
  for (const p of layers.get('N')?.planes ?? []) out.push(p as Float32Array);
  const depth = layers.get('depth')?.planes[0];
  if (!depth) return out;
  let [sum, count] = [0, 0];
  for (const z of depth)
    if (z < FAR) {
      sum += z;
      count++;
    }
  const middle = count > 0 ? sum / count : 1;
  const near = new Float32Array(depth.length);
  for (let i = 0; i < near.length; i++) near[i] = depth[i] < FAR ? (NEAR * middle) / (middle + depth[i]) : 0;
  return [...out, near];
}
