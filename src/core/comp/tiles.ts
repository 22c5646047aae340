import { put } from '../wasm';
import { type LoopRoom, room } from './loops';
import { blank, type Picture, type Rgb } from './picture';
import { TABLE_BYTES, type Table, type Tone } from './tones';
import { WAYS, type Way } from './ways';

/** At which share something takes effect, and where. */
interface Effect {
  opacity: number;
  mask: Float32Array | null;
}

/** Light to be joined: a picture, a colour all over (straight), or steps of its own over nothing. */
export type Light = Picture | { rgb: Rgb; alpha: number } | { steps: readonly Step[] };

/** Something that can be done pixel by pixel. */
export type Step =
  /** A layer with what is done to it, joined. */
  | ({ do: 'join'; light: Light; tones: readonly Tone[]; way: Way } & Effect)
  /** A tone of all that is below. */
  | ({ do: 'tone'; tone: Tone } & Effect)
  /** What has been made of all that is below, in its place. */
  | ({ do: 'replace'; by: Picture } & Effect);

/** Pixels that are worked on at once: few enough that their planes stay in the cache. */
const TILE = 4096;
/** Bytes from plane to plane: a little more than a tile, since what lies whole pages apart contends for the same places of the cache. */
const PLANE = TILE * 4 + 320;

const tablesOf = (tone: Tone): readonly Table[] =>
  tone.kind === 'lead' || tone.kind === 'gain' ? tone.tables : tone.kind === 'veil' ? [tone.table] : [];

function allTables(steps: readonly Step[]): Table[] {
  return steps.flatMap((s) => {
    if (s.do === 'tone') return [...tablesOf(s.tone)];
    if (s.do !== 'join') return [];
    return [...s.tones.flatMap((t) => [...tablesOf(t)]), ...('steps' in s.light ? allTables(s.light.steps) : [])];
  });
}

/** How many pictures lie on each other at most while steps are gone through. */
const depthOf = (steps: readonly Step[]): number =>
  1 + Math.max(1, ...steps.map((s) => (s.do === 'join' && 'steps' in s.light ? depthOf(s.light.steps) : 1)));

/** Goes through steps tile by tile, in the memory of the loops. */
class Tiles {
  private readonly own: LoopRoom;
  private readonly share: number;
  private readonly beside: number;
  private readonly places = new Map<Table, number>();
  private from = 0;
  private count = 0;
  /** What was loaded last of this tile: alphas by height of the pile, which layers of a film share, and the share of an effect. */
  private alphas: (Float32Array | null)[] = [];
  private shared: Effect | null = null;

  constructor(private readonly steps: readonly Step[]) {
    const tables = [...new Set(allTables(steps))];
    const slots = depthOf(steps) + 1;
    this.own = room(PLANE, PLANE, ...tables.map(() => TABLE_BYTES), ...Array(slots).fill(4 * PLANE));
    [this.share, this.beside] = this.own.at;
    tables.forEach((table, i) => {
      this.places.set(table, this.own.at[2 + i]);
      put(this.own, this.own.at[2 + i], table);
    });
  }

  /** Where the planes of a picture at some height of the pile lie. */
  private slot(height: number): number {
    return this.own.at[2 + this.places.size + height];
  }

  private floats(at: number, count = this.count): Float32Array {
    return new Float32Array(this.own.memory, at, count);
  }

  private load(at: number, plane: Float32Array): void {
    this.floats(at).set(plane.subarray(this.from, this.from + this.count));
  }

  /** The share at which something takes effect, pixel by pixel. */
  private effect({ opacity, mask }: Effect): number {
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
      this.load(this.beside, tone.kind === 'times' ? tone.plane : tone.depth);
      if (tone.kind === 'times') loops.times(at, PLANE, this.beside, n);
      else loops.veil(at, PLANE, this.beside, tables[0], ...tone.rgb, n);
    }
  }

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
      for (const step of light.steps) this.step(step, height);
    } else {
      for (let c = 0; c < 3; c++) this.floats(at + c * PLANE).fill(light.rgb[c] * light.alpha);
      this.floats(at + 3 * PLANE).fill(light.alpha);
    }
  }

  private step(step: Step, height: number): void {
    const [at, above] = [this.slot(height), this.slot(height + 1)];
    const { loops } = this.own;
    if (step.do === 'join') {
      this.light(step.light, height + 1);
      for (const tone of step.tones) this.tone(above, tone);
      const way = WAYS.indexOf(step.way);
      if (step.mask === null) loops.joinEvenly(way, at, above, PLANE, step.opacity, this.count);
      else loops.join(way, at, above, PLANE, this.effect(step), this.count);
      return;
    }
    if (step.do === 'tone' && step.opacity === 1 && step.mask === null) {
      this.tone(at, step.tone);
      return;
    }
    if (step.do === 'tone') {
      new Uint8Array(this.own.memory).copyWithin(above, at, at + 4 * PLANE);
      this.alphas[height + 1] = null;
      this.tone(above, step.tone);
    } else this.light(step.by, height + 1);
    loops.blend(at, above, PLANE, this.effect(step), this.count);
  }

  over(below: Picture | null, width: number, height: number): Picture {
    const size = width * height;
    const out = blank(width, height);
    const at = this.slot(0);
    for (this.from = 0; this.from < size; this.from += TILE) {
      this.count = Math.min(TILE, size - this.from);
      this.alphas = [];
      this.shared = null;
      for (let c = 0; c < 4; c++)
        if (below) this.load(at + c * PLANE, below.planes[c]);
        else this.floats(at + c * PLANE).fill(0);
      for (const step of this.steps) this.step(step, 0);
      for (let c = 0; c < 4; c++) out.planes[c].set(this.floats(at + c * PLANE), this.from);
    }
    return out;
  }
}

/** What steps make of a picture, one after the other; the same picture without any. */
export const stepped = (below: Picture, steps: readonly Step[]): Picture =>
  steps.length === 0 ? below : new Tiles(steps).over(below, below.width, below.height);

/** The same over nothing. */
export const steppedAlone = (steps: readonly Step[], width: number, height: number): Picture =>
  new Tiles(steps).over(null, width, height);
