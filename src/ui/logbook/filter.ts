import { words } from '../state/format';
import type { Trial } from '../state/types';

/**
 * Trials that a filter keeps: every word must stand in the title, note, camera, state, recipe's name, or as number or frame
 * ("07", "f12").
 */
export function filtered(trials: readonly Trial[], text: string, starred: boolean): Trial[] {
  const wanted = text.toLowerCase().split(/\s+/).filter(Boolean);
  return trials.filter((t) => {
    if (starred && !t.starred) return false;
    const all = [
      t.title,
      t.note,
      t.camera,
      t.state,
      t.recipe.name,
      String(t.number).padStart(2, '0'),
      t.frame === null ? '' : `f${t.frame}`,
      t.recipe.region ? 'region' : '',
      t.ladder ? `ladder ${t.ladder.at.map((a) => a.label).join(' ')}` : '',
    ]
      .map(words)
      .join('\n')
      .toLowerCase();
    return wanted.every((w) => all.includes(words(w)));
  });
}
