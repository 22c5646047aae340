export {
  at,
  freeName,
  IN_A,
  inserted,
  keyedAt,
  keyedValues,
  movedKey,
  movedTo,
  NO_STACK,
  nested,
  OF_FILE,
  OF_TRIAL,
  OF_VARIANT,
  type Path,
  type Place,
  parseStack,
  placeOf,
  SHOWN,
  type StackDocument,
  setAt,
  unkeyedAt,
  unnested,
  withAt,
} from './document';
export { evaluate, type Sources, StackMemo } from './evaluate';
export { exposed } from './exposed';
export { type MoodFactors, type Read, sourcesOf } from './film-sources';
export { filmInFrame } from './fitted';
export { type GradeCube, gradeCube } from './grade-cube';
export { evaluateInTurn } from './in-turn';
export { type Keyed, keyFrames, keyOf, valueAt } from './keys';
export { CUT_ALONE, gradeOfLook } from './look';
export type { MaskData, StackMask } from './mask-schema';
export { maskPlane } from './masks';
export { ALL_GROUPS, fitted, halfOf, layersOf, type Need, needsOf, shownIn, stackNeeds } from './needs';
export { cutBy, type LookTable, readCube, TableError } from './operations/cube';
export { TABLE_ENCODINGS, type TableEncoding } from './operations/encodings';
export { type Lens, sharpBetween } from './operations/lens';
export { wayOf } from './own-way';
export { type PartsIn, partsIn } from './parts';
export type { Picture } from './picture';
export { type FramePart, type Placing, placed } from './place';
export { plateOf, spaceOfPlate } from './plate';
export { SCREENS } from './screens';
export { inPage, type Showing, screenLight, shownValues } from './shown';
export {
  checkStack,
  type Entry,
  entriesOf,
  type Operation,
  type Plate,
  type Source,
  type Stack,
  type StackDisplay,
  StackError,
  stackAt,
} from './stack';
export { helpWithTiles, makeTiles, type TileWork } from './stepped';
export { WAYS, type Way } from './ways';
export { pictureExr, shownFile } from './written';
