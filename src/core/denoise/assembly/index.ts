// The filter's inner loops over one square of a picture. What they read and write is placed by ../layout.ts.
export { fit } from './fit';
export { compare, weigh } from './weigh';
