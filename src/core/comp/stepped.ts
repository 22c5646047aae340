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
  size: number;
  /** Where its tiles go: four planes one behind the other. */
  out: number;
  control: SharedArrayBuffer;
}

/** Words of the control: the next tile, how many are made, how many other threads are at work, and of each tile whether one of them has made it. */
const [, MADE, WORKING, BY_OTHERS] = [0, 1, 2, 3];
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

/** What a thread does that helps. */
export function makeTiles({ memory, pieces, steps, below, held, size, out, control }: TileWork): void {
  const words = new Int32Array(control);
  Atomics.add(words, WORKING, 1);
  try {
    // Whoever comes late must touch nothing: what is there may be worked on already for the next picture.
    if (Atomics.load(words, 0) * TILE >= size) return;
    const own = { loops: room.on(memory), at: [...pieces], memory: memory.buffer, owner: memory };
    const all = new Float32Array(memory.buffer, out, size * 4);
    new Tiles(steps, own, held).run(below, size, words, (tile, from, planes) => {
      planes.forEach((plane, c) => {
        all.set(plane, c * size + from);
      });
      Atomics.store(words, BY_OTHERS + tile, 1);
    });
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
  const size = width * height;
  const tiles = Math.ceil(size / TILE);
  const planes = allPlanes(steps, below);
  const sizes = sizesFor(steps);
  if (held && size >= LEAST_SHARED) helpers ??= makeHelpers();
  const helping = held && size >= LEAST_SHARED ? (helpers ?? []) : [];
  const all = [...sizes, ...helping.flatMap(() => sizes), ...(helping.length > 0 ? [size * 16] : [])];
  const { own, at } = held?.room([...planes], all) ?? { own: room(...all), at: new Map<Float32Array, number>() };
  const mine = new Tiles(steps, own, at);
  const words = new Int32Array(new SharedArrayBuffer((BY_OTHERS + tiles) * 4));
  const out = blank(width, height);
  const put = (_: number, from: number, made: readonly Float32Array[]) => {
    made.forEach((plane, c) => {
      out.planes[c].set(plane, from);
    });
  };
  // What is not held lies in this thread's memory alone.
  if (helping.length === 0 || ![...planes].every((p) => at.has(p))) {
    mine.run(below, size, words, put);
    return out;
  }
  const tokens = new Map([...at.keys()].map((plane) => [plane, new Float32Array(0)]));
  const token = (plane: Float32Array) => tokens.get(plane)!;
  const others = own.at[all.length - 1];
  const work = {
    memory: own.owner,
    steps: overPlanes(steps, token),
    below: below && overPicture(below, token),
    held: new Map([...at].map(([plane, place]) => [token(plane), place])),
    size,
    out: others,
    control: words.buffer,
  };
  helping.forEach((help, k) => {
    help({ ...work, pieces: own.at.slice((k + 1) * sizes.length, (k + 2) * sizes.length) });
  });
  mine.run(below, size, words, put);
  if (!awaited(words, tiles)) {
    // One that has come to grief may still write into this memory.
    helpers = [];
    held?.renew();
    return over(below, steps, width, height, held);
  }
  for (let tile = 0; tile < tiles; tile++) {
    if (words[BY_OTHERS + tile] === 0) continue;
    const from = tile * TILE;
    const plane = (c: number) =>
      new Float32Array(own.memory, others + (c * size + from) * 4, Math.min(TILE, size - from));
    put(tile, from, [plane(0), plane(1), plane(2), plane(3)]);
  }
  return out;
}

/** What steps make of a picture, one after the other; the same picture without any. `held`: planes that need not be copied for it. */
export const stepped = (below: Picture, steps: readonly Step[], held: HeldPlanes | null): Picture =>
  steps.length === 0 ? below : over(below, steps, below.width, below.height, held);

/** The same over nothing. */
export const steppedAlone = (steps: readonly Step[], width: number, height: number, held: HeldPlanes | null): Picture =>
  over(null, steps, width, height, held);
