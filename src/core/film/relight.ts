import type { Rgb } from '../stats';
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

/** Σ factor·part, plane by plane. `prefix` chooses the parts: `group.`, `half_a.` or `half_b.`. */
export function relight(film: FilmLayers, groups: readonly string[], balance: Balance, prefix: string): Rgb | null {
  const factors = balanceFactors(groups, balance);
  const size = film.width * film.height;
  const out = [new Float32Array(size), new Float32Array(size), new Float32Array(size)] as const;
  for (let g = 0; g < groups.length; g++) {
    const layer = film.layers.get(prefix + groups[g]);
    if (!layer) return null;
    for (let c = 0; c < 3; c++) {
      const k = factors[g][c];
      if (k === 0) continue;
      const src = layer.planes[c];
      const dst = out[c];
      for (let i = 0; i < size; i++) dst[i] += src[i] * k;
    }
  }
  return out;
}
