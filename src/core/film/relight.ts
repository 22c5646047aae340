import type { Rgb } from '../stats';
import { type Half, LAYER } from './catalogue';
import type { FilmLayers } from './layers';

/** What a mood does to one light group. */
export interface GroupBalance {
  /** Stops of gain. */
  stops: number;
  /** Linear Rec.709 multiplier, 1 = unchanged. */
  color: [number, number, number];
  on: boolean;
  solo: boolean;
}

export type Balance = Record<string, GroupBalance>;

export const NEUTRAL: GroupBalance = { stops: 0, color: [1, 1, 1], on: true, solo: false };

/** RGB factors of each group: black for what is off, or not solo while another is. */
export function balanceFactors(groups: readonly string[], balance: Balance): [number, number, number][] {
  const anySolo = groups.some((g) => balance[g]?.solo);
  return groups.map((g) => {
    const b = balance[g] ?? NEUTRAL;
    if (!b.on || (anySolo && !b.solo)) return [0, 0, 0];
    const k = 2 ** b.stops;
    return [b.color[0] * k, b.color[1] * k, b.color[2] * k];
  });
}

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
export function relight(film: FilmLayers, groups: readonly string[], balance: Balance, half?: Half): Rgb | null {
  const factors = balanceFactors(groups, balance);
  const size = film.width * film.height;
  const out = [new Float32Array(size), new Float32Array(size), new Float32Array(size)] as const;
  const parts: Float32Array[][] = [];
  for (const group of groups) {
    const layer = film.layers.get(half === undefined ? LAYER.group(group) : LAYER.half(half, group));
    if (!layer) return null;
    parts.push(layer.planes);
  }
  for (let c = 0; c < 3; c++) {
    const lit = parts.map((planes, g) => ({ plane: planes[c], k: factors[g][c] })).filter((p) => p.k !== 0);
    if (lit.length % 2 === 1) lit.push({ plane: lit[0].plane, k: 0 });
    for (let from = 0; from < size; from += BLOCK) {
      const to = Math.min(size, from + BLOCK);
      for (let g = 0; g < lit.length; g += 2)
        addTwo(out[c], lit[g].plane, lit[g].k, lit[g + 1].plane, lit[g + 1].k, from, to);
    }
  }
  return out;
}
