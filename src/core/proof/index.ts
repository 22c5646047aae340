export { type Cause, causesOf } from './causes';
export type { PartOf } from './sums';
export { causeWords } from './words';
