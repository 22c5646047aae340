export { changeText } from './labels';
export { isPreset, PRESETS, type PresetName } from './presets';
export {
  canonicalJson,
  differences,
  PATH_CLASS_NAMES,
  frameOf,
  parseRecipe,
  type Recipe,
  RecipeError,
  settingAt,
  withSetting,
} from './schema';
