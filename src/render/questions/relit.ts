import { type Factors, factorOf, LAYER, type PartNoise, partNoise, relight } from '@/core/film';
import { luminance } from '@/core/image';
import { type Noise, noiseOf } from '@/core/stats';
import { type FilmAt, filmAt } from './film-at';
import type { Question } from './question';

export interface RelitMeasure extends PartNoise {
  /** Noise of the picture as it was rendered, of the same moment. */
  plain: Noise | null;
  /** Part of the relit picture's light that is each group's. */
  shares: Record<string, number>;
}

interface Asked {
  of: FilmAt;
  groups: string[];
  factors: Factors;
  exposure: number;
}

/** Noise and light of a relit film, whole and by group, from its halves. */
export const relit: Question<Asked, RelitMeasure> = async (desk, { of, groups, factors, exposure }) => {
  const film = await filmAt(
    desk,
    of,
    groups.flatMap((g) => [LAYER.half('a', g), LAYER.half('b', g)]),
  );
  const noise = partNoise(film, groups, factors, exposure);
  const [a, b] = [relight(film, groups, {}, 'a'), relight(film, groups, {}, 'b')];
  const plain = a && b && noiseOf(a, b, film.width, film.height, exposure);
  const light = groups.map((g) => {
    const [r, gr, b] = [0, 1, 2].map((c) => {
      let sum = 0;
      for (const half of ['a', 'b'] as const) {
        const plane = film.layers.get(LAYER.half(half, g))!.planes[c];
        for (let i = 0; i < plane.length; i++) sum += plane[i];
      }
      return sum * factorOf(factors, g)[c];
    });
    return luminance(r, gr, b);
  });
  const whole = light.reduce((a, b) => a + b, 0);
  const shares = Object.fromEntries(groups.map((g, i) => [g, whole > 0 ? light[i] / whole : 0]));
  return { ...noise, plain, shares };
};
