import { frameOf, type Recipe } from '@/core/recipe';

/** A run's recipe in a line: its name, the size of its frames, and how they are denoised. */
export function recipeWords(recipe: Recipe): string {
  const { name, denoise } = recipe;
  const { width, height } = frameOf(recipe);
  const cleaned = denoise.on ? (denoise.neighbours ? [' · denoised, joined'] : [' · denoised']) : [];
  return [`${name} · ${width}×${height}`, ...cleaned].join('');
}
