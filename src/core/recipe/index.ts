export { changeText, settingLabel } from './labels';
export { isPreset, PRESETS, type PresetName } from './presets';
export {
  canonicalJson,
  differences,
  FEATURE_NAMES,
  type FeatureName,
  frameOf,
  PATH_CLASS_NAMES,
  parseRecipe,
  type Recipe,
  RecipeError,
  settingAt,
  withSetting,
} from './schema';
