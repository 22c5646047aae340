import { put } from '../wasm';
import type { Four, LoopRoom } from './loops';
import type { Picture } from './picture';
import { depthOf, type Effect, type Light, type Step, tablesIn, tablesOf } from './steps';
import { TABLE_BYTES, type Table, type Tone } from './tones';
import { WAYS } from './ways';

/** Pixels that are worked on at once: few enough that their planes stay in the cache. */
export const TILE = 8192;
/** Bytes from plane to plane: a little more than a tile, since what lies whole pages apart contends for the same places of the cache. */
const PLANE = TILE * 4 + 320;

/** Goes through steps tile by tile, in the memory of the loops. */
export class Tiles {
  private readonly share: number;
  private readonly beside: number;
  private readonly places = new Map<Table, number>();
  private from = 0;
  private count = 0;
  /** What was loaded last of this tile: alphas by height of the pile, which layers of a film share, and the share of an effect. */
  private alphas: (Float32Array | null)[] = [];
  private shared: Effect | null = null;
  /** The alpha that what is below has at least this share of by now, by height. */
  private covered: ({ alpha: Float32Array; share: number } | null)[] = [];

  constructor(
    private readonly steps: readonly Step[],
    private readonly own: LoopRoom,
    private readonly held: ReadonlyMap<Float32Array, number>,
  ) {
    [this.share, this.beside] = own.at;
    tablesIn(steps).forEach((table, i) => {
      this.places.set(table, own.at[2 + i]);
      put(own, own.at[2 + i], table);
    });
  }

  /** Where the planes of a picture at some height of the pile lie. */
  private slot(height: number): number {
    return this.own.at[2 + this.places.size + height];
  }

  private slots(height: number): Four {
    const at = this.slot(height);
    return [at, at + PLANE, at + 2 * PLANE, at + 3 * PLANE];
  }

  /** Where this tile of a plane lies, if it is held. */
  private heldAt(plane: Float32Array): number | null {
    const at = this.held.get(plane);
    return at === undefined ? null : at + this.from * 4;
  }

  private floats(at: number, count = this.count): Float32Array {
    return new Float32Array(this.own.memory, at, count);
  }

  private load(at: number, plane: Float32Array): void {
    const held = this.heldAt(plane);
    if (held === null) this.floats(at).set(plane.subarray(this.from, this.from + this.count));
    else this.floats(at).set(this.floats(held));
  }

  /** Where this tile of a plane is, put at a place if it is not held. */
  private found(plane: Float32Array, at: number): number {
    const held = this.heldAt(plane);
    if (held === null) this.load(at, plane);
    return held ?? at;
  }

  /** The share at which something takes effect, pixel by pixel. */
  private effect({ opacity, mask }: Effect): number {
    const held = mask && opacity === 1 ? this.heldAt(mask) : null;
    if (held !== null) return held;
    if (this.shared?.opacity === opacity && this.shared.mask === mask) return this.share;
    this.shared = { opacity, mask };
    if (mask === null) this.floats(this.share).fill(opacity);
    else {
      this.load(this.share, mask);
      if (opacity !== 1) this.own.loops.weigh(this.share, opacity, this.count);
    }
    return this.share;
  }

  private tone(at: number, tone: Tone): void {
    const { loops } = this.own;
    const n = this.count;
    const tables = tablesOf(tone).map((t) => this.places.get(t)!);
    if (tone.kind === 'scale') loops.scale(at, PLANE, ...tone.rgb, n);
    else if (tone.kind === 'saturate') loops.saturate(at, PLANE, tone.amount, ...tone.weights, n);
    else if (tone.kind === 'lead') loops.lead(at, PLANE, tables[0], tables[1], tables[2], ...tone.slopes, n);
    else if (tone.kind === 'gain') loops.gain(at, PLANE, tables[0], tables[1], tables[2], ...tone.weights, n);
    else {
      const by = this.found(tone.kind === 'times' ? tone.plane : tone.depth, this.beside);
      if (tone.kind === 'times') loops.times(at, PLANE, by, n);
      else loops.veil(at, PLANE, by, tables[0], ...tone.rgb, n);
    }
  }

  /** A picture's planes where they are held, or at some height. */
  private picture({ planes }: Picture, height: number): Four {
    const at = this.slots(height);
    const found = (c: 0 | 1 | 2) => this.found(planes[c], at[c]);
    const alpha = this.heldAt(planes[3]);
    if (alpha === null && this.alphas[height] !== planes[3]) {
      this.load(at[3], planes[3]);
      this.alphas[height] = planes[3];
    }
    return [found(0), found(1), found(2), alpha ?? at[3]];
  }

  /** Puts a light at some height. */
  private light(light: Light, height: number): void {
    const at = this.slot(height);
    if ('planes' in light) {
      const [, , , alpha] = light.planes;
      for (let c = 0; c < 3; c++) this.load(at + c * PLANE, light.planes[c]);
      if (this.alphas[height] !== alpha) this.load(at + 3 * PLANE, alpha);
      this.alphas[height] = alpha;
      return;
    }
    this.alphas[height] = null;
    if ('steps' in light) {
      for (let c = 0; c < 4; c++) this.floats(at + c * PLANE).fill(0);
      this.covered[height] = null;
      for (const step of light.steps) this.step(step, height);
    } else {
      for (let c = 0; c < 3; c++) this.floats(at + c * PLANE).fill(light.rgb[c] * light.alpha);
      this.floats(at + 3 * PLANE).fill(light.alpha);
    }
  }

  /** Whether what is added or screened covers nothing that what is below does not: parts of a film have one alpha. Notes what it covers. */
  private isCovered({ light, way, opacity, mask }: Extract<Step, { do: 'join' }>, height: number): boolean {
    if (!('planes' in light) || (way !== 'add' && way !== 'screen')) return false;
    const [, , , alpha] = light.planes;
    const before = this.covered[height];
    if (before?.alpha === alpha && before.share >= opacity) return true;
    if (mask === null) this.covered[height] = { alpha, share: opacity };
    return false;
  }

  private step(step: Step, height: number): void {
    const [at, above] = [this.slot(height), this.slot(height + 1)];
    const { loops } = this.own;
    if (step.do === 'join') {
      let planes = this.slots(height + 1);
      if ('planes' in step.light && step.tones.length === 0) planes = this.picture(step.light, height + 1);
      else this.light(step.light, height + 1);
      for (const tone of step.tones) this.tone(above, tone);
      const way = WAYS.indexOf(step.way);
      if (this.isCovered(step, height)) planes = [planes[0], planes[1], planes[2], 0];
      if (step.mask === null) loops.joinEvenly(way, at, PLANE, ...planes, step.opacity, this.count);
      else loops.join(way, at, PLANE, ...planes, this.effect(step), this.count);
      return;
    }
    if (step.do === 'tone' && step.opacity === 1 && step.mask === null) {
      this.tone(at, step.tone);
      return;
    }
    let planes = this.slots(height + 1);
    if (step.do === 'tone') {
      new Uint8Array(this.own.memory).copyWithin(above, at, at + 4 * PLANE);
      this.alphas[height + 1] = null;
      this.tone(above, step.tone);
    } else planes = this.picture(step.by, height + 1);
    loops.blend(at, PLANE, ...planes, this.effect(step), this.count);
    if (step.do === 'replace') this.covered[height] = null;
  }

  /**
   * Makes tile after tile of a picture of so many pixels, taken from the first word of `counter`, which threads may share; the second counts them. `made` is told
   * of each: its number, its first pixel, and its four planes.
   */
  run(
    below: Picture | null,
    size: number,
    counter: Int32Array,
    made: (tile: number, from: number, planes: readonly Float32Array[]) => void,
  ): void {
    const at = this.slot(0);
    for (;;) {
      const tile = Atomics.add(counter, 0, 1);
      this.from = tile * TILE;
      if (this.from >= size) return;
      this.count = Math.min(TILE, size - this.from);
      this.alphas = [];
      this.shared = null;
      this.covered = [];
      for (let c = 0; c < 4; c++)
        if (below) this.load(at + c * PLANE, below.planes[c]);
        else this.floats(at + c * PLANE).fill(0);
      for (const step of this.steps) this.step(step, 0);
      made(
        tile,
        this.from,
        [0, 1, 2, 3].map((c) => this.floats(at + c * PLANE)),
      );
      Atomics.add(counter, 1, 1);
    }
  }
}

/** Pieces of memory that steps are worked on in. */
export function sizesFor(steps: readonly Step[]): number[] {
  const slots = depthOf(steps) + 1;
  return [PLANE, PLANE, ...tablesIn(steps).map(() => TABLE_BYTES), ...Array(slots).fill(4 * PLANE)];
}
