export { type Cause, causesOf } from './causes';
export type { PartOf } from './sums';
export { type Mistaken, mistaken } from './tag';
export { causeWords } from './words';
