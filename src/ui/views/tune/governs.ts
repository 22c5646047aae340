import type { NoiseShares, RayCounts } from '@/core/film';
import { SETTINGS } from '@/core/recipe';
import type { Figures } from '../../state/figures';

export function noiseShareOf(path: string, shares: NoiseShares | null): number | null {
  const g = SETTINGS[path]?.governs;
  if (!g || !shares) return null;
  return shares.groupClass
    .filter((s) => (g.classes as readonly string[]).includes(s.pathClass))
    .reduce((n, s) => n + s.share, 0);
}

export function rayShareOf(path: string, rays: RayCounts | null): number | null {
  const g = SETTINGS[path]?.governs;
  if (!g || !rays || rays.total === 0 || g.rays.length === 0) return null;
  // Trials from before a kind of ray was told apart have none of it.
  return g.rays.reduce((n, k) => n + ((rays[k] as number | undefined) ?? 0), 0) / rays.total;
}

/** Share of the tracing time that a row governs; of the rays where films do not tell times. */
export function timeShareOf(path: string, { times, rays }: Pick<Figures, 'times' | 'rays'>): number | null {
  const g = SETTINGS[path]?.governs;
  if (!times || !g || g.rays.length === 0) return rayShareOf(path, rays);
  return g.rays.reduce((n, k) => n + ((times as Partial<Record<keyof RayCounts, number>>)[k] ?? 0), 0);
}

/** The largest sources of noise, light group by path class, down to `least` of the whole. */
export function topSources(
  shares: NoiseShares | null,
  least = 0.04,
): { group: string; pathClass: string; share: number }[] {
  if (!shares) return [];
  return shares.groupClass
    .filter((s) => s.share >= least)
    .sort((a, b) => b.share - a.share)
    .slice(0, 4);
}
