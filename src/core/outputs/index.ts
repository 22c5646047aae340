export { allFiles, apartByLayer, filesOf, type NamedBy, type OutputFile, type PlannedFiles } from './files';
export {
  chosenOf,
  filmFor,
  fittedTo,
  MASKED_BY,
  possibleLayers,
  recipeFor,
  regrouped,
  toggled,
  withMade,
  writes,
} from './layers';
export { emptyPicks, likeName, type Maskable, maskableOf, pickedBy } from './masks';
export {
  allOf,
  type Chip,
  DEPTHS,
  FILLED,
  FIRST_OUTPUTS,
  GROUPINGS,
  type Mask,
  type MaskPick,
  type Output,
  type Outputs,
  OutputsError,
  outputSchema,
  PACKINGS,
  parseOutputs,
  WHOLE_FAMILIES,
  type WholeFamily,
} from './schema';
