export { type Cause, causesOf } from './causes';
export { causeWords } from './words';
