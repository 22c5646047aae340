import { parseRecipe, type Recipe } from './schema';

/** Recipes that ship, by name: a quick look, a working check, a final frame. */
export const PRESETS: Record<'Sketch' | 'Check' | 'Final', Recipe> = {
  Sketch: parseRecipe({
    name: 'Sketch',
    size: { scale: 25 },
    sampling: { cameraMin: 4, cameraMax: 16, outlierLimit: { later: 0 } },
    rayDepth: { all: 16, diffuse: 1, reflection: 3, transmission: 12 },
  }),
  Check: parseRecipe({ name: 'Check' }),
  Final: parseRecipe({
    name: 'Final',
    size: { scale: 100 },
    sampling: { cameraMin: 64, cameraMax: 512, stopNoise: 1, outlierLimit: { later: 2 } },
    rayDepth: { all: 40, diffuse: 6, reflection: 12, transmission: 28 },
  }),
};

/** A recipe's denoising where there is none. */
export const NOT_DENOISED: Recipe['denoise'] = { on: false, strength: 100, neighbours: false };

/** What a film keeps of nothing but the picture, for quick looks: spread over `film` of a recipe. */
export const BEAUTY_ALONE = {
  groups: false,
  classes: false,
  pairs: [],
  ledger: 'off',
  lostLight: false,
  guides: false,
  features: [],
} satisfies Partial<Recipe['film']>;

export type PresetName = keyof typeof PRESETS;

export function isPreset(name: string): name is PresetName {
  return Object.hasOwn(PRESETS, name);
}
