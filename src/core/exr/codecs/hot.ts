import { HOT } from './hot-bytes';

interface Loops {
  memory: WebAssembly.Memory;
  addUp(at: number, n: number): void;
  halves(low: number, high: number, to: number, count: number): void;
}

/** Bytes of a lane, by which loops read and write beyond the end. */
const LANE = 16;
/** Where there is nothing but the data. */
const START = 1024;
const PAGE = 65536;
/** Most memory that is held on to; larger chunks are unpacked without these loops. */
const MOST_BYTES = 64 << 20;

let loops: Loops | null = null;
function loaded(): Loops {
  if (loops) return loops;
  const memory = new WebAssembly.Memory({ initial: 1 });
  const module = new WebAssembly.Module(Uint8Array.from(atob(HOT), (c) => c.charCodeAt(0)));
  const { exports } = new WebAssembly.Instance(module, { env: { memory, abort: () => {} } });
  loops = { ...(exports as unknown as Omit<Loops, 'memory'>), memory };
  return loops;
}

/**
 * The numbers of a chunk of halves, in its order, whose bytes are differences and apart as `arrange` leaves them. They are there
 * until the next call. Null for a chunk that is too large.
 */
export function numbersOfHalves(differences: Uint8Array): Float32Array | null {
  const n = differences.length;
  const count = n >> 1;
  const to = START + Math.ceil(n / LANE + 2) * LANE;
  const needed = to + count * 4 + 4 * LANE;
  if (needed > MOST_BYTES || n % 2 !== 0) return null;
  const { memory, addUp, halves } = loaded();
  if (memory.buffer.byteLength < needed) memory.grow(Math.ceil((needed - memory.buffer.byteLength) / PAGE));
  new Uint8Array(memory.buffer, START, n).set(differences);
  addUp(START, n);
  halves(START, START + count, to, count);
  return new Float32Array(memory.buffer, to, count);
}
