export { changeText } from './labels';
export { isPreset, PRESETS, type PresetName } from './presets';
export {
  canonicalJson,
  differences,
  frameOf,
  parseRecipe,
  type Recipe,
  RecipeError,
  recipeSchema,
  settingAt,
  withSetting,
} from './schema';
