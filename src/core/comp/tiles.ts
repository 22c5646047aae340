import { put } from '../wasm';
import type { HeldPlanes } from './held';
import { type Four, type LoopRoom, room } from './loops';
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
const TILE = 8192;
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

/** Planes that steps read, each once. */
function allPlanes(steps: readonly Step[]): Set<Float32Array> {
  const all = new Set<Float32Array>();
  const look = (of: readonly Step[]) => {
    for (const step of of) {
      const tones = step.do === 'join' ? step.tones : step.do === 'tone' ? [step.tone] : [];
      for (const tone of tones)
        if (tone.kind === 'times') all.add(tone.plane);
        else if (tone.kind === 'veil') all.add(tone.depth);
      if (step.mask) all.add(step.mask);
      const light = step.do === 'join' ? step.light : step.do === 'replace' ? step.by : null;
      if (light && 'planes' in light) for (const plane of light.planes) all.add(plane);
      else if (light && 'steps' in light) look(light.steps);
    }
  };
  look(steps);
  return all;
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
  private readonly held: ReadonlyMap<Float32Array, number>;
  private from = 0;
  private count = 0;
  /** What was loaded last of this tile: alphas by height of the pile, which layers of a film share, and the share of an effect. */
  private alphas: (Float32Array | null)[] = [];
  private shared: Effect | null = null;

  constructor(
    private readonly steps: readonly Step[],
    below: Picture | null,
    held: HeldPlanes | null,
  ) {
    const tables = [...new Set(allTables(steps))];
    const slots = depthOf(steps) + 1;
    const sizes = [PLANE, PLANE, ...tables.map(() => TABLE_BYTES), ...Array(slots).fill(4 * PLANE)];
    const planes = new Set([...(below?.planes ?? []), ...allPlanes(steps)]);
    const { own, at } = held?.room([...planes], sizes) ?? { own: room(...sizes), at: new Map() };
    this.own = own;
    this.held = at;
    [this.share, this.beside] = own.at;
    tables.forEach((table, i) => {
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
    this.floats(at).set(plane.subarray(this.from, this.from + this.count));
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
      let planes = this.slots(height + 1);
      if ('planes' in step.light && step.tones.length === 0) planes = this.picture(step.light, height + 1);
      else this.light(step.light, height + 1);
      for (const tone of step.tones) this.tone(above, tone);
      const way = WAYS.indexOf(step.way);
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

/** What steps make of a picture, one after the other; the same picture without any. `held`: planes that need not be copied for it. */
export const stepped = (below: Picture, steps: readonly Step[], held: HeldPlanes | null): Picture =>
  steps.length === 0 ? below : new Tiles(steps, below, held).over(below, below.width, below.height);

/** The same over nothing. */
export const steppedAlone = (steps: readonly Step[], width: number, height: number, held: HeldPlanes | null): Picture =>
  new Tiles(steps, null, held).over(null, width, height);
