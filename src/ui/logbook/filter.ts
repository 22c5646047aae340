import type { TrialLine } from '@/contract/trial';
import { words } from '@/core/words';

/** Whether a part of the frame was rendered. */
const isPart = ({ pixels: { width, height, region } }: TrialLine) => region.width < width || region.height < height;

/**
 * Trials that a filter keeps: every word must stand in the title, note, camera, state, recipe's name, or as number or frame
 * ("07", "f12").
 */
export function filtered<T extends TrialLine>(trials: readonly T[], text: string, starred: boolean): T[] {
  const wanted = text.toLowerCase().split(/\s+/).filter(Boolean);
  return trials.filter((t) => {
    if (starred && !t.starred) return false;
    const all = [
      t.title,
      t.note,
      t.camera,
      t.state,
      t.recipeName,
      String(t.number).padStart(2, '0'),
      t.frame === null ? '' : `f${t.frame}`,
      isPart(t) ? 'region' : '',
      t.ladder ? `ladder ${t.ladder.at.map((a) => a.label).join(' ')}` : '',
    ]
      .map(words)
      .join('\n')
      .toLowerCase();
    return wanted.every((w) => all.includes(words(w)));
  });
}
