export { Film, type NoiseShares, noiseShares, type RayCounts } from './film';
export { COVERAGE_RANKS, type FilmLayers, type Layer, layerNames, makeLayer, makeLayers } from './layers';
export { type Balance, balanceFactors, type GroupBalance, NEUTRAL, relight } from './relight';
export { type FilmSpec, filmBytes, makeSpec } from './spec';
export { type Parting, partsOf, TALLY_LIMITS, type Tally, tally } from './tally';
export { type FilmFigures, halvesOf, measureFilm } from './figures';
