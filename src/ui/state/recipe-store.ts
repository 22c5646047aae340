import { create } from 'zustand';
import { changeText, differences, parseRecipe, type Recipe, RecipeError, withSetting } from '@/core/recipe';
import { note, type Subject } from './history';

interface RecipeState {
  recipe: Recipe | null;
  /** Version of the draft, of recipe and scene alike, as the server has it. */
  version: number;
  /** Whether the draft holds changes the server does not have yet. */
  unsaved: boolean;
  load: (recipe: Recipe, version: number) => void;
  /** Sets one dotted value; returns the fault in words when it is refused, and changes nothing then. */
  set: (path: string, value: unknown) => string | null;
  replace: (recipe: Recipe) => void;
  saved: (version: number, recipe: Recipe) => void;
}

const subject: Subject<Recipe> = { put: (recipe) => useRecipe.setState({ recipe, unsaved: true }) };

const MOST_CHANGES = 2;
/** What one recipe changes of another, in few words. */
function changeWords(from: Recipe, to: Recipe): string {
  const changes = differences(from, to).map(changeText);
  if (changes.length === 0) return `recipe ${to.name}`;
  const more = changes.length - MOST_CHANGES;
  return `${changes.slice(0, MOST_CHANGES).join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
}

/** The draft recipe of this tab. */
export const useRecipe = create<RecipeState>((set, get) => ({
  recipe: null,
  version: 0,
  unsaved: false,
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
    const { recipe } = get();
    if (!recipe || JSON.stringify(recipe) === JSON.stringify(next)) return;
    set({ recipe: next, unsaved: true });
    note(subject, changeWords(recipe, next), recipe, next);
  },
  saved: (version, recipe) => set((s) => ({ version, unsaved: s.recipe !== recipe && s.unsaved })),
}));
