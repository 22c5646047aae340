export { SquareFilter } from './filter';
export type { HotLight } from './hot';
export { denoiseSquare, type Picture, type Results, squaresOf } from './picture';
export { DenoiseError, denoisedLayers, type MakePlane, type Prepared, prepare, readyLead, readyWhole } from './prepare';
