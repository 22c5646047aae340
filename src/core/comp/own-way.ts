import { layerInfo } from '../film';
import type { Source } from './stack';
import type { Way } from './ways';

/**
 * How a layer joins by what it is: a picture stands over what is below, parts of it add up, openness and shadow hold back. Null for what never shows:
 * data, halves and masks.
 */
export function wayOf(source: Source): Way | null {
  if (source.from !== 'film') return 'over';
  const { family } = layerInfo(source.layer);
  if (source.layer === 'occlusion') return 'occlude';
  if (source.layer === 'shadow' || source.layer === 'shadowing') return 'shadow';
  if (family === 'beauty') return 'over';
  if (['group', 'class', 'pair', 'bounce', 'rest', 'lost'].includes(family) || source.layer === 'unshadowed')
    return 'add';
  return null;
}
