import type { Rgb } from '../stats';
import { put, roomsOf } from '../wasm';
import { type Half, LAYER } from './catalogue';
import { HOT } from './hot-bytes';
import type { FilmLayers } from './layers';

interface Loops {
  freeFrom(): number;
  mix(parts: number, stride: number, factors: number, n: number, out: number, count: number): void;
}
const room = roomsOf<Loops>(HOT);

/** RGB factors of the light of groups, linear Rec.709; a group that is not named is as it was rendered. */
export type Factors = Readonly<Record<string, readonly [number, number, number]>>;

const UNCHANGED = [1, 1, 1] as const;
/** What becomes of a group's light. */
export const factorOf = (factors: Factors, group: string): readonly [number, number, number] =>
  factors[group] ?? UNCHANGED;

/** Floats of every part that are summed at once: few enough that all of them stay in the cache. */
const BLOCK = 8192;

/** Σ factor·plane, at the length of the planes. */
function mixed(planes: readonly Float32Array[], factors: readonly number[], size: number): Float32Array {
  const out = new Float32Array(size);
  const lit = planes.flatMap((plane, g) => (factors[g] === 0 ? [] : [{ plane, k: factors[g] }]));
  if (lit.length === 0) return out;
  const own = room(lit.length * BLOCK * 4, lit.length * 4, BLOCK * 4);
  const [partsAt, factorsAt, outAt] = own.at;
  put(
    own,
    factorsAt,
    Float32Array.from(lit, (p) => p.k),
  );
  const parts = new Float32Array(own.memory, partsAt, lit.length * BLOCK);
  for (let from = 0; from < size; from += BLOCK) {
    const count = Math.min(BLOCK, size - from);
    lit.forEach(({ plane }, j) => {
      parts.set(plane.subarray(from, from + count), j * BLOCK);
    });
    own.loops.mix(partsAt, BLOCK * 4, factorsAt, lit.length, outAt, count);
    out.set(new Float32Array(own.memory, outAt, count), from);
  }
  return out;
}

/** Σ factor·part, plane by plane: of the groups, or of one half of each. Null when one is missing. */
export function relight(film: FilmLayers, groups: readonly string[], factors: Factors, half?: Half): Rgb | null {
  const parts: Float32Array[][] = [];
  for (const group of groups) {
    const layer = film.layers.get(half === undefined ? LAYER.group(group) : LAYER.half(half, group));
    if (!layer) return null;
    parts.push(layer.planes);
  }
  const plane = (c: 0 | 1 | 2) =>
    mixed(
      parts.map((p) => p[c]),
      groups.map((g) => factorOf(factors, g)[c]),
      film.width * film.height,
    );
  return [plane(0), plane(1), plane(2)];
}
