export {
  Kernel,
  type PreparedScene,
  prepareScene,
  RAY_FLOATS,
  type Rebuilt,
  SEEN_FLOATS,
  scratchBytes,
  sizeFault,
  updateScene,
} from './bindings';
export { groupColors } from './group-colors';
export {
  COVERAGE_SLOTS,
  fieldOffset,
  GUIDE_PLANES,
  LEDGER_PLANES,
  LIMIT_KINDS,
  OBJECT_COLUMNS,
  PATH_CLASSES,
  type PathClass,
  PLANE_BYTES,
  RAY_COUNTERS,
  RAY_KINDS,
  REACH_EXPONENT,
  TABLE,
  TABLE_BYTES,
  TABLE_DOUBLES,
  TABLED_OBJECTS,
  TILE_PIXELS,
  TILE_SIZE,
  TRAIL_BYTES,
  TRAIL_ENDS,
  TRAIL_EVENTS,
  TRAIL_FIELDS,
} from './layout';
export { cameraAxes, type PlaneMap } from './params';
export { makeWorld, worldKey } from './world';
