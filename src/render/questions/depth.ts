import { type DepthCurve, depthCurve, LEDGER_LAYERS } from '@/core/film';
import type { Question } from './question';

/** What the picture in A lacks at every limit of its ledger; null while it has none. */
export const depth: Question<Record<string, never>, DepthCurve | null> = async (desk) => {
  const source = desk.sources.A;
  if (source?.kind === 'live') {
    const film = desk.live?.layers(LEDGER_LAYERS);
    return film ? depthCurve(film, desk.sceneExposure) : null;
  }
  if (source?.kind !== 'trial' || !source.layers.includes(LEDGER_LAYERS[0])) return null;
  const names = source.layers.includes('lost') ? [...LEDGER_LAYERS, 'lost'] : LEDGER_LAYERS;
  return depthCurve(await desk.cache.film(source, names), desk.sceneExposure);
};
