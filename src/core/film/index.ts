export { balancedFilm, groupsHeld } from './balanced';
export {
  COVERAGE_RANKS,
  FAMILIES,
  type FamilyName,
  filmKept,
  type Half,
  isData,
  isExact,
  isMask,
  LAYER,
  type LayerInfo,
  LEDGER_LAYERS,
  layerInfo,
  layersKept,
  MASK_LAYERS,
  type MaskLayer,
  stillKind,
} from './catalogue';
export { cellError, cellErrorRelit, grainOf, raysPerSample } from './cell-error';
export { cellMean, cellMeanOfGroup } from './cell-mean';
export { cropLayers } from './crop';
export { type FilmFigures, halvesOf, joinedFigures, measureFilm, noiseOfLayers } from './figures';
export { Film, PlaneShelf, type RayCounts } from './film';
export { type FittedRecipe, fitRecipe, strangers } from './fit';
export { type FilmLayers, type Layer, layerNames, makeLayer, makeLayers } from './layers';
export {
  type DepthCurve,
  type DepthStep,
  depthCurve,
  ENOUGH_CELL,
  ENOUGH_RMS,
  pictureAtLimit,
  reachOfBand,
} from './ledger';
export { isPartOfLight, lightShares } from './light-shares';
export { type ObjectDepth, objectDepths } from './object-depths';
export { OPEN_REACHES, OPENNESS, opennessAt, reachNumber } from './openness';
export { joinedNoise, type PartNoise, partNoise, RelitHalves } from './part-noise';
export { endsWithAlpha, isRampable, type Ramp, rampEnds, ramped } from './ramp';
export { costsOf, msOfCell, raysOfCell, type TimeShares } from './ray-costs';
export { type Factors, factorOf, relight } from './relight';
export { restFamily, restOf, sumOf } from './rest';
export { limitShares, type NoiseShares, type ObjectShare, objectShares } from './shares';
export { distance, smoothed } from './smoothed';
export { type FilmSpec, filmBytes, keepsReaches, makeSpec } from './spec';
export { PARTINGS, type Parting, TALLY_LIMITS, type Tally, tally } from './tally';
