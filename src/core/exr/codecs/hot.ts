import { HOT } from './hot-bytes';

/** Addresses and numbers of bytes, words or values; what each does stands beside it in `assembly`. */
export interface Loops {
  freeFrom(): number;
  addUp(at: number, n: number): void;
  takeApart(from: number, to: number, n: number): void;
  takeDifferences(at: number, n: number): void;
  putTogether(from: number, to: number, n: number): void;
  floatsApart(low: number, high: number, to: number, count: number): void;
  toFloats(from: number, to: number, count: number): void;
  toHalves(from: number, to: number, count: number): void;
  packRuns(from: number, n: number, to: number, most: number): number;
  unpackRuns(from: number, n: number, to: number, most: number): number;
  toWavelets(at: number, nx: number, ny: number, ox: number, oy: number, isNarrow: boolean): void;
  fromWavelets(at: number, nx: number, ny: number, ox: number, oy: number, isNarrow: boolean): void;
  encode(words: number, n: number, codes: number, lengths: number, run: number, to: number): number;
  decode(
    from: number,
    bits: number,
    table: number,
    first: number,
    counts: number,
    begins: number,
    symbols: number,
    run: number,
    to: number,
    most: number,
  ): number;
  takeRowApart(from: number, width: number, kept: number, to: number): void;
  putRowTogether(from: number, width: number, kept: number, to: number): void;
  packSquares(plane: number, width: number, rows: number, curve: number, isFlat: boolean, to: number): number;
  unpackSquares(from: number, end: number, width: number, rows: number, curve: number, plane: number): number;
  toFrequencies(block: number): void;
  toValues(block: number): void;
  fewestBits(value: number, error: number): number;
  packLight(
    planes: number,
    channels: number,
    width: number,
    rows: number,
    bent: number,
    errors: number,
    dc: number,
    ac: number,
  ): number;
  unpackLight(
    dc: number,
    ac: number,
    end: number,
    linear: number,
    channels: number,
    width: number,
    rows: number,
    planes: number,
  ): number;
}

/** What loops that read give where they find a fault. */
export const FAULTS = { beyondTheEnd: -1, noCode: -2, tooMany: -3 } as const;

const LANE = 16;
/** Bytes by which loops read and write beyond what they were given. */
const BEYOND = 5 * LANE;
const PAGE = 65536;
/** Most memory that is held on to between calls. */
const MOST_HELD = 64 << 20;

interface Instance {
  loops: Loops;
  memory: WebAssembly.Memory;
}

let compiled: WebAssembly.Module | null = null;
function instantiated(): Instance {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(HOT), (c) => c.charCodeAt(0)));
  const memory = new WebAssembly.Memory({ initial: 1 });
  const { exports } = new WebAssembly.Instance(compiled, { env: { memory, abort: () => {} } });
  return { loops: exports as unknown as Loops, memory };
}

let kept: Instance | null = null;

/** Memory that one call of loops works on, until the next room is taken. */
export interface Room {
  loops: Loops;
  /** Addresses of the pieces that were asked for, each aligned to a lane. What was there before is still there. */
  at: number[];
  memory: ArrayBuffer;
}

/** Takes room for pieces of so many bytes each. */
export function room(...sizes: number[]): Room {
  kept ??= instantiated();
  let end = Math.ceil(kept.loops.freeFrom() / LANE) * LANE;
  const at = sizes.map((size) => {
    const own = end;
    end += Math.ceil((size + BEYOND) / LANE) * LANE;
    return own;
  });
  const { loops, memory } = end > MOST_HELD ? instantiated() : kept;
  if (memory.buffer.byteLength < end) memory.grow(Math.ceil((end - memory.buffer.byteLength) / PAGE));
  return { loops, at, memory: memory.buffer };
}

/** Puts the bytes of an array into a room. */
export function put({ memory }: Room, at: number, values: ArrayBufferView): void {
  new Uint8Array(memory, at, values.byteLength).set(
    new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
  );
}
