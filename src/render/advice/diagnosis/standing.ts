import type { Recipe } from '@/core/recipe';
import type { Material, SceneDocument } from '@/core/scene';
import type { Fix } from './fix';
import type { Survey } from './survey';

/** Something that may be wrong, and what would show it. */
export interface Suspect {
  /** Which cause it is, for tests and icons. */
  code: string;
  /** What is wrong, in words. */
  words: string;
  fix: Fix | null;
  /** Objects and lights it is about. */
  about: string[];
  /** Kept whatever its fix is measured to change. */
  certain?: boolean;
}

/** What the picture is like as it stands. */
export interface Standing {
  document: SceneDocument;
  recipe: Recipe;
  camera: SceneDocument['cameras'][number];
  survey: Survey;
  /** Linear colour of the picture at each of the survey's sights. */
  colors: readonly (readonly [number, number, number])[];
  /** Mean of log₂ of luminance × exposure over pixels that hold light; null when none does. */
  logMean: number | null;
  /** Share of the light beyond limits, as a multiple of the light in the picture, by kind of limit. */
  lost: Record<string, number>;
}

export const at = (kind: 'light' | 'object' | 'material' | 'camera', name: string) => ({ kind, name });

/** Materials that glow and that an object has. */
export function emissive(document: SceneDocument): Material[] {
  const used = new Set(document.objects.map((o) => o.material));
  return document.materials.filter((m) => m.emission_luminance > 0 && used.has(m.name));
}
