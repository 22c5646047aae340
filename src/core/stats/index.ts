export { allocate, type CellNeed } from './allocate';
export {
  type Affordable,
  affordable,
  type KeyFrame,
  type Sequence,
  secondsUntil,
  sequenceSeconds,
} from './budget';
export { sampled, separable, unit } from './convolve';
export {
  type Counts,
  CURES,
  type Cure,
  type CureFit,
  type CureGoal,
  type CureModel,
  type CurePrediction,
  fallBeyond,
  fitCures,
  leftWith,
  msOf,
  ONE_EACH,
  type Patches,
  type Pilot,
  predictCure,
  samplesLeaving,
  solveCure,
  squaresOf,
} from './cure';
export { intervalAt, readAt } from './curve';
export { efficiency } from './efficiency';
export { type PictureErrors, pictureErrors } from './errors';
export { flipMap } from './flip';
export { cellGrain } from './grain';
export { type Knee, kneeOf, kneeWords, type LadderPoint } from './knee';
export { nonNegativeLeastSquares } from './least-squares';
export {
  cellNoise,
  cellWeight2,
  DARKER_STOPS,
  darker,
  type HotPixels,
  hotPixels,
  laidOver,
  luminanceSquares,
  type Noise,
  noiseFigures,
  noiseMap,
  noiseOf,
  noiseSquares,
  type Rgb,
} from './noise';
export { between, exactly, type Interval, mulberry, scaledBy, widened } from './resample';
export { type Chosen, chooseCells, type Drawn, drawByWorth } from './strata';
