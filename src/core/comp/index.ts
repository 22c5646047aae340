export {
  at,
  freeName,
  inserted,
  keyedAt,
  keyedValues,
  movedKey,
  movedTo,
  NO_STACK,
  nested,
  OF_TRIAL,
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
export { type GradeCube, gradeCube } from './grade-cube';
export { type Keyed, keyFrames, keyOf, valueAt } from './keys';
export type { MaskData, StackMask } from './mask-schema';
export { maskPlane } from './masks';
export { ALL_GROUPS, fitted, halfOf, layersOf, type Need, shownIn, stackNeeds } from './needs';
export { type LookTable, readCube, TableError } from './operations/cube';
export { wayOf } from './own-way';
export { type PartsIn, partsIn } from './parts';
export type { Picture } from './picture';
export { type FramePart, type Placing, placed } from './place';
export { plateOf } from './plate';
export {
  checkStack,
  type Entry,
  entriesOf,
  type Operation,
  type Plate,
  type Source,
  type Stack,
  StackError,
  stackAt,
} from './stack';
export { WAYS, type Way } from './ways';
export { pictureExr, picturePng } from './written';
