export { allFiles, apartByLayer, filesOf, type NamedBy, type OutputFile, type PlannedFiles } from './files';
export { chosenOf, filmFor, fittedTo, possibleLayers, recipeFor, toggled, writes } from './layers';
export {
  allOf,
  type Chip,
  DEPTHS,
  FILLED,
  FIRST_OUTPUTS,
  GROUPINGS,
  type Output,
  type Outputs,
  OutputsError,
  outputSchema,
  PACKINGS,
  parseOutputs,
  WHOLE_FAMILIES,
  type WholeFamily,
} from './schema';
