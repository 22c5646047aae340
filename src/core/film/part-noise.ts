import { type Display, luminance, scaleOf } from '../image';
import { groupTree, withOuter } from '../scene';
import { luminanceSquares, type Noise, noiseFigures } from '../stats';
import { LAYER } from './catalogue';
import type { FilmLayers } from './layers';
import { type Factors, factorOf } from './relight';

/** Noise of a relit film, whole and of light groups in it, in percent of display white; null where a half is missing. */
export interface PartNoise {
  noise: Noise | null;
  byGroup: Record<string, Noise | null>;
}

/** Luminances of a layer's pixels with factors on red, green and blue. */
function luminancesOf(planes: readonly Float32Array[], k: readonly number[]): Float32Array {
  const [r, g, b] = planes;
  const weights = [luminance(k[0], 0, 0), luminance(0, k[1], 0), luminance(0, 0, k[2])];
  const [wr, wg, wb] = weights;
  const out = new Float32Array(r.length);
  if (weights.every((w) => w === 0)) return out;
  for (let i = 0; i < out.length; i++) out[i] = wr * r[i] + wg * g[i] + wb * b[i];
  return out;
}

/** Luminances of both halves of a film with its light groups at factors, whole and of each group. */
export class RelitHalves {
  /** Sums of the groups. */
  readonly a: Float32Array;
  readonly b: Float32Array;

  private constructor(
    private readonly film: FilmLayers,
    private readonly exposure: Display,
    private readonly parts: ReadonlyMap<string, { a: Float32Array; b: Float32Array }>,
  ) {
    const size = film.width * film.height;
    this.a = new Float32Array(size);
    this.b = new Float32Array(size);
    for (const { a, b } of parts.values())
      for (let i = 0; i < size; i++) {
        this.a[i] += a[i];
        this.b[i] += b[i];
      }
  }

  /** Null where a group's half is missing. */
  static of(film: FilmLayers, groups: readonly string[], factors: Factors, exposure: Display): RelitHalves | null {
    const parts = new Map<string, { a: Float32Array; b: Float32Array }>();
    for (const g of groups) {
      const [a, b] = (['a', 'b'] as const).map((half) => film.layers.get(LAYER.half(half, g)));
      if (!a || !b) return null;
      const k = factorOf(factors, g);
      parts.set(g, { a: luminancesOf(a.planes, k), b: luminancesOf(b.planes, k) });
    }
    return new RelitHalves(film, exposure, parts);
  }

  private figures(a: Float32Array, b: Float32Array): Noise {
    return noiseFigures(luminanceSquares(a, b, this.exposure), this.film.width, this.film.height);
  }

  /** Noise of the whole picture. */
  noise(): Noise {
    return this.figures(this.a, this.b);
  }

  /** Noise of the picture with a group, and all that is in it, lifted from where it is, the others as they are. */
  lifted(group: string, stops: number): Noise {
    const more = 2 ** stops - 1;
    const [a, b] = [this.a.slice(), this.b.slice()];
    for (const [name, part] of this.parts) {
      if (!withOuter(name).includes(group)) continue;
      for (let i = 0; i < a.length; i++) {
        a[i] += more * part.a[i];
        b[i] += more * part.b[i];
      }
    }
    return this.figures(a, b);
  }

  /** Part of the pixels whose luminance is beyond display white, and that part by the group that gives the most of it there. */
  beyondWhite(): { share: number; byGroup: Record<string, number> } {
    const least = 2 / scaleOf(this.exposure);
    const counts = new Map<string, number>();
    const parts = [...this.parts];
    let count = 0;
    for (let i = 0; i < this.a.length; i++) {
      if (this.a[i] + this.b[i] <= least) continue;
      count++;
      let [most, of] = [-Infinity, ''];
      for (const [group, { a, b }] of parts)
        if (a[i] + b[i] > most) {
          most = a[i] + b[i];
          of = group;
        }
      counts.set(of, (counts.get(of) ?? 0) + 1);
    }
    const size = Math.max(1, this.a.length);
    return {
      share: count / size,
      byGroup: Object.fromEntries(parts.map(([g]) => [g, (counts.get(g) ?? 0) / size])),
    };
  }

  /** Light of each group and of each that they are in, in parts of all of it. */
  shares(): Record<string, number> {
    const light = [...this.parts].map(([group, { a, b }]): [string, number] => {
      let sum = 0;
      for (let i = 0; i < a.length; i++) sum += a[i] + b[i];
      return [group, sum];
    });
    const whole = light.reduce((sum, [, l]) => sum + l, 0);
    const of = new Map(light.map(([g, l]) => [g, whole > 0 ? l / whole : 0]));
    return Object.fromEntries(
      groupTree([...this.parts.keys()]).map(({ name, groups }) => [name, groups.reduce((s, g) => s + of.get(g)!, 0)]),
    );
  }

  /** Noise of some groups alone, but weighed as they stand in the whole picture, so that groups compare. */
  ofGroups(groups: readonly string[]): Noise {
    const other = this.a.slice();
    for (const g of groups) {
      const { a, b } = this.parts.get(g)!;
      for (let i = 0; i < other.length; i++) other[i] += b[i] - a[i];
    }
    return this.figures(this.a, other);
  }
}

/** Noise of a film with its light groups at these factors, and of every group in it. */
export function partNoise(film: FilmLayers, groups: readonly string[], factors: Factors, exposure: Display): PartNoise {
  const halves = RelitHalves.of(film, groups, factors, exposure);
  return {
    noise: halves?.noise() ?? null,
    byGroup: Object.fromEntries(groups.map((g) => [g, halves?.ofGroups([g]) ?? null])),
  };
}

/** Noise of several groups joined in one layer, as of the remainder of what is written. */
export const joinedNoise = (
  film: FilmLayers,
  groups: readonly string[],
  joined: readonly string[],
  exposure: Display,
): Noise | null => RelitHalves.of(film, groups, {}, exposure)?.ofGroups(joined) ?? null;
