export { changeText } from './labels';
export { isPreset, PRESETS, type PresetName } from './presets';
export {
  canonicalJson,
  differences,
  frameOf,
  parseRecipe,
  type Recipe,
  RecipeError,
  settingAt,
  withSetting,
} from './schema';
