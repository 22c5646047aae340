import { type FilmLayers, relight } from '@/core/film';
import { luminance } from '@/core/image';
import type { FilmDesk } from '../page/desk';
import type { Question } from './question';

const LOW_STOPS = -12;
const HIGH_STOPS = 6;
/** Below this part of display white a screen of 8 bits shows black. */
const BLACK = 1 / (255 * 12.92);

/** Pixels of the picture by stops from display white. */
export interface Histogram {
  /** Counts, half a stop each, from `lowStops`. */
  bins: number[];
  lowStops: number;
  /** Shares of pixels beyond white, and below what a screen shows. */
  clipped: number;
  black: number;
  /** Mean log₂ of luminance against display white; null when nothing is there. */
  logMean: number | null;
}

/** How a picture's pixels lie about display white, at `exposure`. */
export function histogramOf(film: FilmLayers, exposure: number): Histogram | null {
  const beauty = film.layers.get('beauty') ?? [...film.layers.values()].find((l) => l.kind === 'color');
  if (!beauty) return null;
  const [r, g, b] = beauty.planes;
  const bins = new Array<number>((HIGH_STOPS - LOW_STOPS) * 2).fill(0);
  let clipped = 0;
  let black = 0;
  let sum = 0;
  let lit = 0;
  for (let i = 0; i < r.length; i++) {
    const y = luminance(r[i], g[i], b[i]) * exposure;
    if (Math.max(r[i], g[i], b[i]) * exposure > 1) clipped++;
    if (!(y > BLACK)) black++;
    if (!(y > 1e-7)) continue;
    const stops = Math.log2(y);
    sum += stops;
    lit++;
    const bin = Math.floor((stops - LOW_STOPS) * 2);
    bins[Math.max(0, Math.min(bins.length - 1, bin))]++;
  }
  return {
    bins,
    lowStops: LOW_STOPS,
    clipped: clipped / r.length,
    black: black / r.length,
    logMean: lit > r.length * 0.02 ? sum / lit : null,
  };
}

/** The film of A as it is looked at: in a mix, what the mix makes of it. */
function lookedAt({ shown, views }: FilmDesk): FilmLayers | null {
  const film = shown.A?.film ?? null;
  const view = views.A;
  if (!film || view.kind !== 'relit') return film;
  const planes = relight(film, view.groups, view.factors);
  if (!planes) return film;
  const layers = new Map([
    ['beauty', { name: 'beauty', channels: ['R', 'G', 'B'], planes: [...planes], kind: 'color' as const }],
  ]);
  return { ...film, layers };
}

/** How the pixels of A lie about display white; null while there is no picture. */
export const histogram: Question<{ exposure: number }, Histogram | null> = (desk, { exposure }) => {
  const film = lookedAt(desk);
  return film && histogramOf(film, exposure);
};
