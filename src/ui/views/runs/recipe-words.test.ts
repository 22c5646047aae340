import { parseRecipe } from '@/core/recipe';
import { recipeWords } from './recipe-words';

test('a run’s recipe says how its frames are denoised', () => {
  const words = (on: boolean, neighbours: boolean) =>
    recipeWords(
      parseRecipe({
        name: 'Night',
        size: { width: 1280, height: 720, scale: 50 },
        denoise: { on, strength: 100, neighbours },
      }),
    );
  expect(words(false, true)).toBe('Night · 640×360');
  expect(words(true, false)).toBe('Night · 640×360 · denoised');
  expect(words(true, true)).toBe('Night · 640×360 · denoised, joined');
});
