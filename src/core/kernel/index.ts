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
  LIGHT_SIGHTS,
  LIMIT_KINDS,
  OBJECT_COLUMNS,
  OCCLUSION_FIRST_METRES,
  OCCLUSION_PLANES,
  OCCLUSION_RATIO,
  OCCLUSION_REACHES,
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
export { tellOpenness } from './pack-lights';
export { cameraAxes, type PlaneMap } from './params';
export { makeWorld, worldKey } from './world';
