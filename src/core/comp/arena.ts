import { roomFor } from '../wasm';
import { type LoopRoom, room } from './loops';

/** An arena so large or smaller is held between calls. */
const MOST_HELD = 112 << 20;

/** Memory of the loops that is cut into pieces one after the other and grows as it must; addresses stay. Cut anew, it holds what was there before. */
export class Arena {
  private readonly rooms = room.apart();
  private own: LoopRoom = this.rooms(0);
  private end = 0;
  private size = 0;
  readonly loops = this.own.loops;

  /** The address of a piece of so many bytes, aligned to a line of the cache. */
  cut(bytes: number): number {
    const at = this.own.at[0] + this.end;
    this.end += roomFor(bytes);
    if (this.end > this.size) {
      this.size = Math.ceil(this.end * 1.2);
      this.own = this.rooms(this.size);
    }
    return at;
  }

  floats = (count: number): number => this.cut(count * 4);

  /** What is there, until the next piece is cut. */
  view = (at: number, count: number): Float32Array => new Float32Array(this.own.memory, at, count);
  get memory(): ArrayBufferLike {
    return this.own.memory;
  }

  /** What `work` cuts is free again behind it. */
  within<T>(work: () => T): T {
    const { end } = this;
    const out = work();
    this.end = end;
    return out;
  }

  get isHeld(): boolean {
    return this.size <= MOST_HELD;
  }
}

let kept: Arena | null = null;

/** Does something in an arena, which is the same as before unless that had grown large. */
export function inArena<T>(work: (arena: Arena) => T): T {
  const arena = kept ?? new Arena();
  kept = null;
  const out = arena.within(() => work(arena));
  if (arena.isHeld) kept = arena;
  return out;
}
