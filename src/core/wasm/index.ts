/** WebAssembly whose bytes are in the program: inner loops over memory that a caller lays out, for whoever needs them at once. */

/** A line of the cache. */
const LINE = 64;
const LANE = 16;
/** Bytes by which loops read and write beyond what they were given. */
const BEYOND = 5 * LANE;
const PAGE = 65536;
/** Bytes that a piece takes, from the line where it begins to that where the next one may. */
export const roomFor = (bytes: number): number => Math.ceil((bytes + BEYOND) / LINE) * LINE;
/** Most memory that is held on to between calls. */
const MOST_HELD = 64 << 20;

/** What every module tells beside its loops. */
interface Told {
  /** Where memory begins that no loop keeps anything in. */
  freeFrom(): number;
}

/** Memory that one call of loops works on, until the next room of the module is taken. */
export interface Room<Loops> {
  loops: Loops;
  /** Addresses of the pieces that were asked for, each aligned to a line of the cache. What was there before is still there. */
  at: number[];
  memory: ArrayBufferLike;
  /** What that is the memory of. */
  owner: WebAssembly.Memory;
}

/** Gives rooms for pieces of so many bytes each. */
type Rooms<Loops> = (...sizes: number[]) => Room<Loops>;

/**
 * Gives rooms of a module, in base 64. `mostPages`: its memory is one that threads can share, and grows up to so many pages. `apart`: others, in memory of their
 * own, in which everything is held for as long as they are, however much it is. `on`: loops over the memory of a room of another thread.
 */
export function roomsOf<Loops extends Told>(
  base64: string,
  mostPages: number | null = null,
): Rooms<Loops> & { apart(): Rooms<Loops>; on(owner: WebAssembly.Memory): Loops } {
  let compiled: WebAssembly.Module | null = null;
  const on = (memory: WebAssembly.Memory): Loops => {
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)));
    const { exports } = new WebAssembly.Instance(compiled, { env: { memory, abort: () => {} } });
    return exports as unknown as Loops;
  };
  const instantiated = () => {
    const shared = mostPages === null ? {} : { maximum: mostPages, shared: true };
    const memory = new WebAssembly.Memory({ initial: 1, ...shared });
    return { loops: on(memory), memory };
  };
  const held = (most: number): Rooms<Loops> => {
    let kept: ReturnType<typeof instantiated> | null = null;
    return (...sizes) => {
      kept ??= instantiated();
      let end = Math.ceil(kept.loops.freeFrom() / LINE) * LINE;
      const at = sizes.map((size) => {
        const own = end;
        end += roomFor(size);
        return own;
      });
      const { loops, memory } = end > most ? instantiated() : kept;
      if (memory.buffer.byteLength < end) memory.grow(Math.ceil((end - memory.buffer.byteLength) / PAGE));
      return { loops, at, memory: memory.buffer, owner: memory };
    };
  };
  return Object.assign(held(MOST_HELD), { apart: () => held(Number.POSITIVE_INFINITY), on });
}

/** Puts the bytes of an array into a room. */
export function put({ memory }: Room<unknown>, at: number, values: ArrayBufferView): void {
  new Uint8Array(memory, at, values.byteLength).set(
    new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
  );
}
