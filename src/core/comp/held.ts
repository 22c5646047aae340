import { put } from '../wasm';
import { type LoopRoom, room } from './loops';

/** Most bytes of planes that are held for one stack. */
const MOST_BYTES = 320 << 20;
/** Those that hold planes, the latest last: what is shown in A and in B. */
const MOST_HOLDING = 2;
let holding: WeakRef<HeldPlanes>[] = [];

/** Of stacks over many films only the latest go on holding planes. */
function noteHolding(held: HeldPlanes): void {
  if (holding.at(-1)?.deref() === held) return;
  holding = [...holding.filter((h) => h.deref() !== held), new WeakRef(held)];
  for (const old of holding.splice(0, holding.length - MOST_HOLDING)) old.deref()?.renew();
}

/** What was made for a picture of a stack, by what it was made of, for the next one; what that does not ask for is let go. */
export class OfLast<T> {
  private made = new Map<string, T>();
  private last = this.made;

  /** The next picture begins. */
  next(): void {
    this.last = this.made;
    this.made = new Map();
  }

  of(what: object, make: () => T): T {
    const key = JSON.stringify(what);
    const value = this.made.get(key) ?? this.last.get(key) ?? make();
    this.made.set(key, value);
    return value;
  }
}

/** Planes that lie in the memory of the loops for as long as a stack is worked on, so that they need not be copied for each picture of it. */
export class HeldPlanes {
  private rooms: ReturnType<typeof room.apart> | null = null;
  private readonly seen = new WeakSet<Float32Array>();
  private planes: Float32Array[] = [];

  /** `most`: bytes of planes that are held at once. */
  constructor(private readonly most = MOST_BYTES) {}

  /** Begins anew, in other memory. */
  renew(): void {
    this.rooms = null;
    this.planes = [];
  }

  /**
   * A room for pieces of so many bytes, and where those of some planes lie that are held, which must not change. A plane is held from the second time on that it is asked
   * for, since some are made anew for each picture; what is not asked for is let go when there is no room for what is.
   */
  room(
    asked: readonly Float32Array[],
    sizes: readonly number[],
  ): { own: LoopRoom; at: ReadonlyMap<Float32Array, number> } {
    const known = new Set(this.planes);
    const missing = asked.filter((p) => this.seen.has(p) && !known.has(p));
    for (const plane of asked) this.seen.add(plane);
    const bytes = (planes: readonly Float32Array[]) => planes.reduce((sum, p) => sum + p.byteLength, 0);
    let kept = this.planes;
    let added = missing;
    if (bytes(kept) + bytes(missing) > this.most) {
      const wanted = new Set(asked);
      added = [...kept.filter((p) => wanted.has(p)), ...missing];
      kept = [];
    }
    let left = this.most - bytes(kept);
    added = added.filter(({ byteLength }) => {
      const fits = byteLength <= left;
      if (fits) left -= byteLength;
      return fits;
    });
    this.planes = [...kept, ...added];
    if (this.planes.length === 0) return { own: room(...sizes), at: new Map() };
    noteHolding(this);
    this.rooms ??= room.apart();
    const all = this.rooms(...this.planes.map((p) => p.byteLength), ...sizes);
    this.planes.slice(kept.length).forEach((plane, i) => {
      put(all, all.at[kept.length + i], plane);
    });
    return {
      own: { ...all, at: all.at.slice(this.planes.length) },
      at: new Map(this.planes.map((plane, i) => [plane, all.at[i]])),
    };
  }
}
