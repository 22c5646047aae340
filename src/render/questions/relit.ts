import { type Factors, LAYER, type PartNoise, RelitHalves } from '@/core/film';
import { groupTree } from '@/core/scene';
import type { Noise } from '@/core/stats';
import { type FilmAt, filmAt } from './film-at';
import type { Question } from './question';

export interface RelitMeasure extends PartNoise {
  /** Noise as it was rendered, of the live picture at the same moment, of a denoised film as it was denoised; null of a trial's own film, which tells it. */
  plain: Noise | null;
  /** Part of the relit picture's light that is each group's. */
  shares: Record<string, number>;
  /** Part of the pixels that are beyond white, and of which group most of their light is. */
  beyond: { share: number; byGroup: Record<string, number> };
}

interface Asked {
  of: FilmAt;
  groups: string[];
  factors: Factors;
  exposure: number;
}

/** Noise and light of a relit film, whole, by group and by what groups are in, from its halves. Null where it lacks them. */
export const relit: Question<Asked, RelitMeasure | null> = async (desk, { of, groups, factors, exposure }) => {
  const film = await filmAt(
    desk,
    of,
    groups.flatMap((g) => [LAYER.half('a', g), LAYER.half('b', g)]),
  );
  const halves = RelitHalves.of(film, groups, factors, exposure);
  return (
    halves && {
      noise: halves.noise(),
      byGroup: Object.fromEntries(groupTree(groups).map((n) => [n.name, halves.ofGroups(n.groups)])),
      plain: of === 'live' || of.denoised ? (RelitHalves.of(film, groups, {}, exposure)?.noise() ?? null) : null,
      shares: halves.shares(),
      beyond: halves.beyondWhite(),
    }
  );
};
