export { evaluate, type Sources, wayOf } from './evaluate';
export { type Read, sourcesOf } from './film-sources';
export { join, WAYS, type Way } from './join';
export { keyFrames } from './keys';
export type { MaskData } from './mask-schema';
export { type LookTable, readCube, TableError } from './operations/cube';
export type { Picture } from './picture';
export { plateOf } from './plate';
export { checkStack, type Plate, type Source, type Stack, StackError, stackAt } from './stack';
