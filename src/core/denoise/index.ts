export { SquareFilter } from './filter';
export type { HotLight } from './hot';
export { SURFACE_GUIDES } from './layout';
export { varianceOf } from './lead';
export { denoiseSquare, type Picture, type Results, squaresOf } from './picture';
export { DenoiseError, denoisedLayers, type MakePlane, type Prepared, prepare, readyLead, readyWhole } from './prepare';
export { jointBilateral } from './reference/bilateral';
export { nonLocalMeans } from './reference/non-local-means';
