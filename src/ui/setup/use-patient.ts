import { useMemo } from 'react';
import type { Patient } from '@/render/diagnosis/diagnose';
import { useRecipe } from '../state/recipe-store';
import { useSession } from '../state/session';

/** The scene, recipe, camera and frame as they stand, for questions to the film worker. */
export function usePatient(): Patient | null {
  const { document, camera, frame } = useSession();
  const recipe = useRecipe((s) => s.recipe);
  return useMemo(
    () => recipe && { document, recipe, camera: camera.name, frame },
    [document, recipe, camera.name, frame],
  );
}
