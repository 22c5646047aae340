import { useMemo } from 'react';
import type { StackDocument } from '@/core/comp';
import { exposureScale } from '@/core/image';
import { type Outputs, pictureRecipe, type Variant } from '@/core/outputs';
import type { Recipe } from '@/core/recipe';
import { type Camera, lightGroups, type SceneDocument } from '@/core/scene';
import { pictureNeeds } from '@/core/stacks';
import type { Patient } from '@/render/advice/patient';
import { useDesk } from './desk-store';
import { useOutputs } from './outputs-store';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';
import { useStack } from './stack-store';
import { liveVariantNow, useLiveVariant } from './variants';

/** The scene as it is being edited. There is one wherever a shot is open. */
export const useDocument = (): SceneDocument => useScene((s) => s.document!);

const cameraIn = (document: SceneDocument, name: string | null): Camera =>
  document.cameras.find((c) => c.name === name) ?? document.cameras[0];

const frameIn = ({ frames: { first, last } }: SceneDocument, frame: number | null): number =>
  Math.min(last, Math.max(first, frame ?? first));

/** The camera that is looked through. */
export function useCamera(): Camera {
  const name = useDesk((s) => s.camera);
  return useScene((s) => cameraIn(s.document!, name));
}

/** The frame that is looked at. */
export function useFrame(): number {
  const frame = useDesk((s) => s.frame);
  return useScene((s) => frameIn(s.document!, frame));
}

/** Factor from radiance to the display, by the camera's exposure. */
export const useSceneExposure = (): number => exposureScale(useCamera().exposure);

/** Light groups of the scene. */
export function useSceneGroups(): string[] {
  const document = useDocument();
  return useMemo(() => lightGroups(document), [document]);
}

/**
 * The recipe of the picture that is looked at, the shot's or that of a variant: its film also keeps what outputs write of it,
 * its stack needs, and `more` layers beside.
 */
export function useKeptRecipe(more?: string): Recipe | null {
  const stack = useStack((s) => s.stack);
  const recipe = useRecipe((s) => s.recipe);
  const outputs = useOutputs((s) => s.outputs);
  const groups = useSceneGroups();
  const variant = useLiveVariant();
  return useMemo(
    () =>
      recipe &&
      pictureRecipe(recipe, outputs ?? NO_OUTPUTS, variant, groups, [
        ...neededBy(stack, outputs ?? NO_OUTPUTS, variant),
        ...(more === undefined ? [] : [more]),
      ]),
    [recipe, outputs, variant, groups, stack, more],
  );
}

const NO_OUTPUTS: Pick<Outputs, 'list' | 'masks'> = { list: [], masks: [] };

/** What the picture that is looked at keeps for the shot's stack. */
const neededBy = (stack: StackDocument | null, { list }: Pick<Outputs, 'list'>, variant: Variant | null): string[] =>
  stack ? pictureNeeds(stack, list, variant) : [];

/** The scene, recipe, camera and frame as they stand, for questions to the film worker. */
export function usePatient(): Patient | null {
  const document = useDocument();
  const camera = useCamera().name;
  const frame = useFrame();
  const recipe = useKeptRecipe();
  return useMemo(() => recipe && { document, recipe, camera, frame }, [document, recipe, camera, frame]);
}

/** The same outside of a component. */
export function patientNow(): Patient | null {
  const { document } = useScene.getState();
  const { recipe } = useRecipe.getState();
  const { camera, frame } = useDesk.getState();
  if (!document || !recipe) return null;
  const outputs = useOutputs.getState().outputs ?? NO_OUTPUTS;
  const variant = liveVariantNow();
  const needed = neededBy(useStack.getState().stack, outputs, variant);
  const kept = pictureRecipe(recipe, outputs, variant, lightGroups(document), needed);
  return { document, recipe: kept, camera: cameraIn(document, camera).name, frame: frameIn(document, frame) };
}
