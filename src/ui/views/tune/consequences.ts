import type { Prediction } from '@/contract/terms';
import { SETTINGS } from '@/core/recipe';
import { exactly } from '@/core/stats';
import type { Tuned } from '@/render/advice/tuning';
import type { Figures } from '../../state/figures';
import { noiseShareOf, rayShareOf, timeShareOf } from './governs';

/** What doubling and halving a setting does: by pilots, or the bounds that the film's own shares set. */
export interface Outlook {
  by: 'pilots' | 'shares';
  now: Prediction | null;
  twice: Prediction;
  half: Prediction | null;
}

/** From shares alone: doubling a count cures at most half of what it governs, and at least nothing; the time of its rays doubles. */
function byShares(path: string, f: Figures, halvable: boolean): Outlook | null {
  const noise = f.noise?.rms;
  const seconds = f.told;
  if (!noise || !seconds) return null;
  if (path === 'sampling.cameraMax') {
    const at = (k: number): Prediction => ({ noise: exactly(noise / Math.sqrt(k)), seconds: exactly(seconds * k) });
    return { by: 'shares', now: null, twice: at(2), half: at(0.5) };
  }
  const share = Math.max(0, noiseShareOf(path, f.shares) ?? 0);
  const rays = timeShareOf(path, f) ?? 0;
  const best = noise * Math.sqrt(Math.max(0, 1 - share / 2));
  const worst = noise * Math.sqrt(1 + share);
  return {
    by: 'shares',
    now: null,
    twice: {
      noise: { value: (best + noise) / 2, low: best, high: noise },
      seconds: exactly(seconds * (1 + rays)),
    },
    half: halvable
      ? { noise: { value: (worst + noise) / 2, low: noise, high: worst }, seconds: exactly(seconds * (1 - rays / 2)) }
      : null,
  };
}

/** The outlook of a row; null for rows that are no counts, or before anything is measured. */
export function outlookOf(path: string, value: unknown, tuned: Tuned | null, figures: Figures): Outlook | null {
  const what = SETTINGS[path]?.count;
  if (!what) return null;
  const known = tuned?.consequences.find((c) => c.what === what);
  if (tuned && known) return { by: 'pilots', now: tuned.now, twice: known.twice, half: known.half };
  return byShares(path, figures, typeof value === 'number' && value >= 2);
}

/** Fewer rays of a kind than this share of all are none to speak of. */
const NONE = 1e-5;

/** "no transmission here" for a row whose rays this picture has none of; null where it has, or where a limit of 0 hides them. */
export function idleWords(path: string, value: unknown, f: Figures): string | null {
  const rays = f.rays;
  if (!rays || rays.total === 0) return null;
  const about = SETTINGS[path]?.idle;
  if (!about) return null;
  if (about.byRays) return value !== 0 && (rays[about.kind] ?? 0) <= rays.total * NONE ? about.words : null;
  const share = rayShareOf(path, rays) ?? 0;
  const noise = noiseShareOf(path, f.shares) ?? 0;
  return share <= NONE && Math.abs(noise) < 1e-6 ? about.words : null;
}
