import { useHistory } from './history';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';

/** Takes back the last change, of scene or recipe, whichever it was. */
export function undo(): void {
  const subject = useHistory.getState().back();
  if (subject === 'recipe') useRecipe.getState().undo();
  else if (subject === 'scene') useScene.getState().undo();
}

export function redo(): void {
  const subject = useHistory.getState().forth();
  if (subject === 'recipe') useRecipe.getState().redo();
  else if (subject === 'scene') useScene.getState().redo();
}
