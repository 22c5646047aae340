import { groupColors } from '@/core/kernel';
import type { SceneDocument } from '@/core/scene';
import type { Question } from './question';

/** The colour that each light group of a scene emits, linear Rec.709 of luminance 1. */
export const emitted: Question<{ document: SceneDocument }, Record<string, [number, number, number]>> = async (
  desk,
  { document },
) => groupColors(await desk.sceneOf(document));
