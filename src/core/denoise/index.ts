export { blendLayer, neededToBlend, type Strengths } from './blend';
export { type Size, SquareFilter } from './filter';
export type { HotLight } from './hot';
export { SURFACE_GUIDES } from './layout';
export { varianceOf } from './lead';
export { isFiltered, isNeeded, MOST_DENOISED_BYTES, neededBytes } from './needed';
export {
  type Frame,
  flicker,
  type Joined,
  type JoinedFigures,
  joinNeighbours,
  type Moved,
  movedTo,
  NeighbourError,
} from './neighbours';
export {
  cellsOfLook,
  changedMap,
  choosePatches,
  LOOK_CELLS,
  type Look,
  type LookedAt,
  PATCH_FLOATS,
  type Patches,
} from './patches';
export { denoiseSquare, type Picture, type Results, squaresOf } from './picture';
export type { Points } from './points';
export {
  changedNames,
  DenoiseError,
  denoisedLayers,
  type MakePlane,
  type Prepared,
  paintSquare,
  prepare,
  readyLead,
  readyWhole,
} from './prepare';
export { QUICK_LAYERS, QuickFilter } from './quick';
export { jointBilateral } from './reference/bilateral';
export { nonLocalMeans } from './reference/non-local-means';
export { type TrueError, trueError, unbent } from './truth';
