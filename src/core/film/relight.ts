import type { Rgb } from '../stats';
import { type Half, LAYER } from './catalogue';
import type { FilmLayers } from './layers';

/** RGB factors of the light of groups, linear Rec.709; a group that is not named is as it was rendered. */
export type Factors = Readonly<Record<string, readonly [number, number, number]>>;

const UNCHANGED = [1, 1, 1] as const;
/** What becomes of a group's light. */
export const factorOf = (factors: Factors, group: string): readonly [number, number, number] =>
  factors[group] ?? UNCHANGED;

/** Pixels taken at once: small enough that the sums stay in the nearest cache. */
const BLOCK = 4096;

function addTwo(
  out: Float32Array,
  a: Float32Array,
  ka: number,
  b: Float32Array,
  kb: number,
  from: number,
  to: number,
): void {
  for (let i = from; i < to; i++) out[i] += a[i] * ka + b[i] * kb;
}

/** Σ factor·part, plane by plane: of the groups, or of one half of each. Null when one is missing. */
export function relight(film: FilmLayers, groups: readonly string[], factors: Factors, half?: Half): Rgb | null {
  const size = film.width * film.height;
  const out = [new Float32Array(size), new Float32Array(size), new Float32Array(size)] as const;
  const parts: Float32Array[][] = [];
  for (const group of groups) {
    const layer = film.layers.get(half === undefined ? LAYER.group(group) : LAYER.half(half, group));
    if (!layer) return null;
    parts.push(layer.planes);
  }
  for (let c = 0; c < 3; c++) {
    const lit = parts
      .map((planes, g) => ({ plane: planes[c], k: factorOf(factors, groups[g])[c] }))
      .filter((p) => p.k !== 0);
    if (lit.length % 2 === 1) lit.push({ plane: lit[0].plane, k: 0 });
    for (let from = 0; from < size; from += BLOCK) {
      const to = Math.min(size, from + BLOCK);
      for (let g = 0; g < lit.length; g += 2)
        addTwo(out[c], lit[g].plane, lit[g].k, lit[g + 1].plane, lit[g + 1].k, from, to);
    }
  }
  return out;
}
