import type { Prediction } from '@/contract/terms';
import { changeText, parseRecipe, type Recipe, SETTINGS, settingAt, withSetting } from '@/core/recipe';
import type { Tuned } from '@/render/advice/tuning';
import type { Figures } from '../../state/figures';
import { idleWords, outlookOf } from './consequences';

/** A change of the recipe against noise. */
export interface RankedCure {
  path: string;
  words: string;
  recipe: Recipe;
  /** Efficiency over the recipe as it stands: by pilots, or by the middle of the bounds that shares set. */
  efficiency: number;
  by: 'pilots' | 'shares';
  predicted: Prediction | null;
}

const MOST_CURES = 5;
/** Settings whose doubling can be told. */
const COUNTED = Object.keys(SETTINGS).filter((path) => SETTINGS[path].count !== null);

/** Noise² · time of a prediction. */
const burden = (p: Prediction) => p.noise.value ** 2 * p.seconds.value;

/** Counts doubled, the most efficient first; what makes nothing better is left out. */
export function rankedCures(recipe: Recipe, tuned: Tuned | null, figures: Figures): RankedCure[] {
  const seconds = figures.told;
  const noise = figures.noise?.rms;
  if (!noise || !seconds) return [];
  const out: RankedCure[] = [];
  for (const path of COUNTED) {
    const value = settingAt(recipe, path) as number;
    const outlook = outlookOf(path, value, tuned, figures);
    if (!outlook || idleWords(path, value, figures)) continue;
    const now = outlook.now ? burden(outlook.now) : noise ** 2 * seconds;
    let next: Recipe;
    try {
      next = parseRecipe(withSetting(recipe, path, value * 2));
    } catch {
      continue;
    }
    out.push({
      path,
      words: changeText({ path, from: value, to: value * 2 }),
      recipe: next,
      efficiency: now / burden(outlook.twice),
      by: outlook.by,
      predicted: outlook.by === 'pilots' ? outlook.twice : null,
    });
  }
  return out.sort((a, b) => b.efficiency - a.efficiency).slice(0, MOST_CURES);
}
