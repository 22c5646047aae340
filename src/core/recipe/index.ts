export { withSamples } from './effort';
export { BEAUTY_ALONE, isPreset, NOT_DENOISED, PRESETS, type PresetName } from './presets';
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
export { pickSchema, type Scope, scopeSchema } from './scope';
export {
  type CountKind,
  changeText,
  LADDER_SETTINGS,
  type RayKind,
  SETTINGS,
  type Setting,
  type SettingSection,
  settingLabel,
  settingRows,
} from './settings';
