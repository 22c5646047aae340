export {
  allFiles,
  apartByLayer,
  bytesStored,
  filesOf,
  type NamedBy,
  type OutputFile,
  type PlannedFiles,
} from './files';
export {
  chosenOf,
  filmFor,
  fittedTo,
  MASKED_BY,
  maskingOf,
  maskLayers,
  pictureRecipe,
  possibleLayers,
  regrouped,
  toggled,
  withMade,
  writes,
} from './layers';
export {
  allOf,
  type Chip,
  DEPTHS,
  FILLED,
  FIRST_OUTPUTS,
  GROUPINGS,
  type Mask,
  type Output,
  type Outputs,
  OutputsError,
  outputSchema,
  PACKINGS,
  parseOutputs,
  TILES,
  WHOLE_FAMILIES,
  type WholeFamily,
} from './schema';
export { STARTS, type Start } from './starts';
export { isOfVariant, pictures, unvariedRecipe, type Variant, variantOf, variantSchema, variedRecipe } from './variant';
