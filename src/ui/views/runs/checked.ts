import { useMemo } from 'react';
import { toast } from 'sonner';
import { parseRecipe } from '@/core/recipe';
import { type Checked, type CompKind, type Finding, FramesError, leftovers, parseFrames } from '@/core/runs';
import { useDesk } from '../../state/desk-store';
import { together } from '../../state/history';
import { choiceOf, useNewRun } from '../../state/new-run-store';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useRuns } from '../../state/runs';
import { useCamera, useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { useStack } from '../../state/stack-store';

/** Frames that are typed, read; or why they cannot be. */
export function useFrames(): { text: string; frames: number[]; fault: string | null } {
  const shot = useShot((s) => s.id);
  const typed = useNewRun((s) => choiceOf(s, shot).frames);
  const { first, last } = useDocument().frames;
  return useMemo(() => {
    const text = typed ?? (first === last ? String(first) : `${first}-${last}`);
    try {
      return { text, frames: parseFrames(text, { first, last }), fault: null };
    } catch (error) {
      if (!(error instanceof FramesError)) throw error;
      return { text, frames: [], fault: error.message };
    }
  }, [typed, first, last]);
}

/** What the next run would deliver, as it is checked; null while something of it is on its way. */
export function useChecked(frames: readonly number[], as: CompKind | null): Checked | null {
  const document = useDocument();
  const recipe = useRecipe((s) => s.recipe);
  const outputs = useOutputs((s) => s.outputs);
  const camera = useCamera().name;
  const stack = useStack((s) => s.stack);
  const shot = useShot((s) => s.name);
  const number = (useRuns()[0]?.number ?? 0) + 1;
  return useMemo(() => {
    if (!recipe || !outputs || frames.length === 0) return null;
    const names = {
      shot,
      recipe: recipe.name,
      camera,
      frames: { first: frames[0], last: frames[frames.length - 1] },
      trial: number,
      date: new Date(),
    };
    const comp = as && stack && { stack, as };
    return { document, recipe, outputs, camera, frames, names, comp };
  }, [document, recipe, outputs, camera, shot, number, frames, as, stack]);
}

/** What is left over in what the next run would deliver. */
export const useLeftovers = (checked: Checked | null): Finding[] =>
  useMemo(() => (checked ? leftovers(checked) : []), [checked]);

/** Puts findings right, in one step that undo takes back. */
export function repairAll(findings: readonly Finding[]): void {
  const repairs = findings.flatMap((f) => f.repair ?? []);
  if (repairs.length === 0) return;
  together(repairs.length === 1 ? `for the run: ${repairs[0].words}` : `for the run: ${repairs.length} repairs`, () => {
    for (const r of repairs) {
      const { recipe } = useRecipe.getState();
      if (r.recipe && recipe) useRecipe.getState().replace(parseRecipe(r.recipe(recipe)));
      const { outputs } = useOutputs.getState();
      const faults = [
        r.scene ? useScene.getState().edit(`for the run: ${r.words}`, r.scene) : null,
        r.outputs && outputs ? useOutputs.getState().replace(`for the run: ${r.words}`, r.outputs(outputs)) : null,
      ];
      for (const f of faults) if (f) toast.error(f);
      if (r.camera) useDesk.getState().set({ camera: r.camera });
    }
  });
}
