import { create } from 'zustand';
import { parseRecipe, type Recipe, RecipeError, withSetting } from '@/core/recipe';
import { useHistory } from './history';

/** Undo steps kept. */
const MOST_STEPS = 200;

interface RecipeState {
  recipe: Recipe | null;
  version: number;
  /** Whether the draft holds changes the server does not have yet. */
  unsaved: boolean;
  past: Recipe[];
  future: Recipe[];
  load: (recipe: Recipe, version: number) => void;
  /** Sets one dotted value; returns the fault in words when it is refused, and changes nothing then. */
  set: (path: string, value: unknown) => string | null;
  replace: (recipe: Recipe) => void;
  undo: () => void;
  redo: () => void;
  saved: (version: number, recipe: Recipe) => void;
}

/** The draft recipe of this tab, with its own undo. */
export const useRecipe = create<RecipeState>((set, get) => ({
  recipe: null,
  version: 0,
  unsaved: false,
  past: [],
  future: [],
  load: (recipe, version) => set({ recipe, version, unsaved: false }),
  set: (path, value) => {
    const { recipe } = get();
    if (!recipe) return null;
    try {
      let next = withSetting(recipe, path, value);
      // The two ends of a range push each other, so that typing one never gets stuck on the other.
      const min = path === 'sampling.cameraMin' ? (value as number) : recipe.sampling.cameraMin;
      const max = path === 'sampling.cameraMax' ? (value as number) : recipe.sampling.cameraMax;
      if (min > max)
        next = withSetting(next, path === 'sampling.cameraMin' ? 'sampling.cameraMax' : 'sampling.cameraMin', value);
      get().replace(parseRecipe(next));
      return null;
    } catch (error) {
      if (error instanceof RecipeError) return error.fault;
      throw error;
    }
  },
  replace: (next) => {
    const { recipe, past } = get();
    if (!recipe || JSON.stringify(recipe) === JSON.stringify(next)) return;
    useHistory.getState().note('recipe');
    set({ recipe: next, past: [...past, recipe].slice(-MOST_STEPS), future: [], unsaved: true });
  },
  undo: () => {
    const { recipe, past, future } = get();
    const before = past.at(-1);
    if (recipe && before) set({ recipe: before, past: past.slice(0, -1), future: [recipe, ...future], unsaved: true });
  },
  redo: () => {
    const { recipe, past, future } = get();
    if (recipe && future.length > 0)
      set({ recipe: future[0], past: [...past, recipe], future: future.slice(1), unsaved: true });
  },
  saved: (version, recipe) => set((s) => ({ version, unsaved: s.recipe !== recipe && s.unsaved })),
}));
