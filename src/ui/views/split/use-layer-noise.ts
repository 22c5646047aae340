import type { Trial } from '@/contract/trial';
import { LAYER, layerInfo } from '@/core/film';
import { type Output, writes } from '@/core/outputs';
import type { LayerNoise } from '@/render/questions/layer-noise';
import { useAsk } from '../../state/ask';
import { useMixed, useMoodFactors } from '../../state/mixing';
import { useSceneExposure } from '../../state/scene-now';
import { useSlotFilm } from '../../state/slots';

const NONE: string[] = [];
const AFTER_MS = 150;

/** Noise of those layers of a trial whose halves its film keeps: light groups, and the remainder of those that are not written. */
export function useLayerNoise(
  trial: Trial | null,
  has: readonly string[] | null,
  output: Output | null,
): Record<string, LayerNoise> | null {
  const of = useSlotFilm('A');
  const exposure = useSceneExposure();
  const mixed = useMixed('A');
  const moods = useMoodFactors(mixed?.groups ?? NONE, mixed?.own ?? null, mixed?.frame ?? 0);
  const groups = trial?.recipe.film.groups
    ? (has ?? []).flatMap((n) => (layerInfo(n).family === 'group' ? [layerInfo(n).group!] : []))
    : [];
  const unwritten =
    output && writes(output, LAYER.rest('group')) ? groups.filter((g) => !writes(output, LAYER.group(g))) : [];
  const asked = of && groups.length > 0 ? { of, groups, moods, unwritten, exposure } : null;
  return useAsk('layerNoise', asked, { of: trial?.state, afterMs: AFTER_MS, keep: true }).answer;
}
