// The filter's inner loops over one square of a picture, and a quick smoothing of a whole one. What the first read and write is placed by ../layout.ts.
export { fit } from './fit';
export { quick } from './quick';
export { compare, weigh } from './weigh';
