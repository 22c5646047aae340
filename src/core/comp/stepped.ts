import type { HeldPlanes } from './held';
import { room } from './loops';
import { blank, type Picture } from './picture';
import { allPlanes, overPicture, overPlanes, type Step } from './steps';
import { sizesFor, TILE, Tiles } from './tiles';

/** What another thread needs to make tiles of a picture too. All planes are held in the memory, and are known by tokens. */
export interface TileWork {
  memory: WebAssembly.Memory;
  /** Pieces of it that this thread works in. */
  pieces: readonly number[];
  steps: readonly Step[];
  below: Picture | null;
  held: ReadonlyMap<Float32Array, number>;
  width: number;
  height: number;
  out: SharedArrayBuffer;
  control: SharedArrayBuffer;
}

/** Words of the control: the next tile, how many are made, and how many other threads are at work. */
const [, MADE, WORKING, WORDS] = [0, 1, 2, 3];
/** Smallest picture, in pixels, that threads share, and how long they are waited for. */
const LEAST_SHARED = 1 << 18;
const PATIENCE_MS = 2000;

type Helper = (work: TileWork) => void;

let makeHelpers: () => readonly Helper[] = () => [];
let helpers: readonly Helper[] | null = null;

/** Has other threads help with pictures of stacks whose planes are held; they are made when they are needed first. */
export function helpWithTiles(make: () => readonly Helper[]): void {
  makeHelpers = make;
  helpers = null;
}

/** A picture whose planes lie one behind the other. */
function pictureOn(buffer: SharedArrayBuffer, width: number, height: number): Picture {
  const plane = (c: number) => new Float32Array(buffer, c * width * height * 4, width * height);
  return { width, height, planes: [plane(0), plane(1), plane(2), plane(3)] };
}

/** What a thread does that helps. */
export function makeTiles({ memory, pieces, steps, below, held, width, height, out, control }: TileWork): void {
  const words = new Int32Array(control);
  Atomics.add(words, WORKING, 1);
  try {
    // Whoever comes late must touch nothing: what is there may be worked on already for the next picture.
    if (Atomics.load(words, 0) * TILE >= width * height) return;
    const own = { loops: room.on(memory), at: [...pieces], memory: memory.buffer, owner: memory };
    new Tiles(steps, own, held).run(below, pictureOn(out, width, height), words);
  } finally {
    Atomics.sub(words, WORKING, 1);
    Atomics.notify(words, WORKING);
  }
}

/** Waits until no other thread works on a picture; whether all of its tiles are made. */
function awaited(words: Int32Array, tiles: number): boolean {
  for (;;) {
    const working = Atomics.load(words, WORKING);
    if (working === 0) return Atomics.load(words, MADE) === tiles;
    if (Atomics.wait(words, WORKING, working, PATIENCE_MS) === 'timed-out') return false;
  }
}

function over(
  below: Picture | null,
  steps: readonly Step[],
  width: number,
  height: number,
  held: HeldPlanes | null,
): Picture {
  const planes = allPlanes(steps, below);
  const sizes = sizesFor(steps);
  if (held && width * height >= LEAST_SHARED) helpers ??= makeHelpers();
  const helping = held && width * height >= LEAST_SHARED ? (helpers ?? []) : [];
  const all = [...sizes, ...helping.flatMap(() => sizes)];
  const { own, at } = held?.room([...planes], all) ?? { own: room(...all), at: new Map<Float32Array, number>() };
  const mine = new Tiles(steps, own, at);
  const control = new SharedArrayBuffer(WORDS * 4);
  const words = new Int32Array(control);
  // What is not held lies in this thread's memory alone.
  if (helping.length === 0 || ![...planes].every((p) => at.has(p))) {
    const out = blank(width, height);
    mine.run(below, out, words);
    return out;
  }
  const buffer = new SharedArrayBuffer(width * height * 16);
  const tokens = new Map([...at.keys()].map((plane) => [plane, new Float32Array(0)]));
  const token = (plane: Float32Array) => tokens.get(plane)!;
  const work = {
    memory: own.owner,
    steps: overPlanes(steps, token),
    below: below && overPicture(below, token),
    held: new Map([...at].map(([plane, place]) => [token(plane), place])),
    width,
    height,
    out: buffer,
    control,
  };
  helping.forEach((help, k) => {
    help({ ...work, pieces: own.at.slice((k + 1) * sizes.length, (k + 2) * sizes.length) });
  });
  const out = pictureOn(buffer, width, height);
  mine.run(below, out, words);
  if (awaited(words, Math.ceil((width * height) / TILE))) return out;
  // One that has come to grief may still write into this memory.
  helpers = [];
  held?.renew();
  return over(below, steps, width, height, held);
}

/** What steps make of a picture, one after the other; the same picture without any. `held`: planes that need not be copied for it. */
export const stepped = (below: Picture, steps: readonly Step[], held: HeldPlanes | null): Picture =>
  steps.length === 0 ? below : over(below, steps, below.width, below.height, held);

/** The same over nothing. */
export const steppedAlone = (steps: readonly Step[], width: number, height: number, held: HeldPlanes | null): Picture =>
  over(null, steps, width, height, held);
